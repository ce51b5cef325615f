import type { ProbeView } from '@frustum/contract'
import { parametersSentence } from '@frustum/core'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { dayTime, text } from '../../components/format.ts'
import { useRestoreDeviceCalibrationMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

/** The numbers in the device, and what to do where it lost those it was given. */
export function DeviceSays({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { numbersChanged, activeCalibration } = probe
  const { operator } = useAppSelector(actorOf)
  const [giveBack, { isLoading }] = useRestoreDeviceCalibrationMutation()
  const inWords = (c: ProbeView['activeCalibration']) => text(parametersSentence(probe, c))
  const give = async () => {
    const answer = await giveBack({ position: probe.position, operator })
    if (answer.error) toast.error(problemOf(answer.error).message)
    else toast.success('Calibration restored in the device.')
  }
  return (
    <section aria-label="Calibration in the device">
      <h2 className="pb-1 text-base soft">Calibration in the device</h2>
      <p>{inWords(activeCalibration) || 'Unknown'}</p>
      {numbersChanged && (
        <div className="mt-2 border-l-4 border-error pl-3">
          <p className="text-pretty">
            <strong>Changed in the device</strong>, seen {dayTime(numbersChanged.at, timeZone)}. Calibration on record:{' '}
            {inWords(numbersChanged.given)}. A reset, or a change at the keypad: its display has been off since.
          </p>
          {probe.writable ? (
            <For needs="operator">
              <button type="button" className="slant mt-2" disabled={isLoading} onClick={() => void give()}>
                Restore calibration
              </button>
            </For>
          ) : (
            <p className="pt-1">Key in the calibration on record, or calibrate.</p>
          )}
        </div>
      )}
      {probe.device.factoryCell && <p className="soft">A factory-calibrated cell: tested, never adjusted.</p>}
    </section>
  )
}
