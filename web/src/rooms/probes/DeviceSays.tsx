import type { ProbeView } from '@frustum/contract'
import { channelOf, parametersText } from '@frustum/core'
import { toast } from 'sonner'
import { dayTime, sentence } from '../../parts/format.ts'
import { actorOf, problemOf, useRestoreDeviceCalibrationMutation } from '../../store/api.ts'
import { useAppSelector } from '../../store/store.ts'

/** The numbers in the device, and what to do where it lost those it was given. */
export function DeviceSays({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { numbersChanged, inForce } = probe
  const { operator } = useAppSelector(actorOf)
  const [giveBack, { isLoading }] = useRestoreDeviceCalibrationMutation()
  const text = (c: ProbeView['inForce']) => sentence(parametersText({ channel: channelOf(probe.kind) }, c))
  const give = async () => {
    const answer = await giveBack({ position: probe.position, operator })
    if (answer.error) toast.error(problemOf(answer.error).message)
    else toast.success('The device has its numbers back.')
  }
  return (
    <section aria-label="Numbers in the device">
      <h2 className="pb-1 text-base soft">The device reckons with</h2>
      <p>{text(inForce)}</p>
      {numbersChanged && (
        <div className="mt-2 border-l-4 border-error pl-3">
          <p className="text-pretty">
            <strong>It was given others</strong>: {text(numbersChanged.given)}. Seen{' '}
            {dayTime(numbersChanged.at, timeZone)}. A reset, or somebody at its keypad: what it shows since is off by
            that much.
          </p>
          {probe.writable ? (
            <button type="button" className="slant mt-2" disabled={isLoading} onClick={() => void give()}>
              Give them back
            </button>
          ) : (
            <p className="pt-1">Key them in on the device, or calibrate it.</p>
          )}
        </div>
      )}
      {probe.device.factoryCell && <p className="soft">A factory-calibrated cell: tested, never adjusted.</p>}
    </section>
  )
}
