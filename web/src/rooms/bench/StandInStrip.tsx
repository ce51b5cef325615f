import type { VisitLive, VisitView } from '@frustum/contract'
import { toast } from 'sonner'
import { problemOf, usePlayStandInMutation } from '../../store/api.ts'

/** The registers of a stand-in, as docs/formats.md gives them. */
const BATHS = [
  { immersion: 0, name: 'process' },
  { immersion: 1, name: 'rinse' },
  { immersion: 2, name: 'air' },
  { immersion: 3, name: 'pH 4.01' },
  { immersion: 4, name: 'pH 7.00' },
  { immersion: 6, name: 'pH 10.01' },
] as const

const FAULTS = [
  { bit: 1, name: 'bubble' },
  { bit: 2, name: 'swapped buffers' },
  { bit: 4, name: 'too warm' },
  { bit: 8, name: 'cable noise' },
  { bit: 16, name: 'cracked' },
  { bit: 32, name: 'line cut' },
] as const

/** Nobody can dip a simulated electrode, so this strip does. Only stand-ins have it. */
export function StandInStrip({ visit, live }: { visit: VisitView; live: VisitLive }) {
  const [play] = usePlayStandInMutation()
  const state = live.standIn ?? { immersion: 0, faults: 0 }
  const send = async (body: Parameters<typeof play>[0]['body']) => {
    const answer = await play({ position: visit.position, body })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  const chip = (on: boolean) =>
    `min-h-11 min-w-11 border px-1.5 ${on ? 'border-neutral bg-neutral text-neutral-content font-bold' : 'border-[color:var(--line)] bg-base-100'}`
  const calibration = visit.result?.calibration
  return (
    <section
      aria-label="Stand-in"
      className="no-print flex flex-wrap items-center gap-x-1.5 gap-y-2 border-base-300 bg-base-200 px-5 py-2 text-sm max-sm:border-t sm:order-first sm:border-b"
    >
      <h2 className="pr-1 text-sm">Stand-in is in</h2>
      {BATHS.map((bath) => (
        <button
          key={bath.immersion}
          type="button"
          aria-pressed={state.immersion === bath.immersion}
          className={chip(state.immersion === bath.immersion)}
          onClick={() =>
            void send({
              immersion: bath.immersion,
              ...(bath.immersion === 1 && visit.current === 'clean' ? { wipe: true } : {}),
            })
          }
        >
          {bath.name}
        </button>
      ))}
      <span className="pr-1 pl-3 font-bold">play</span>
      {FAULTS.map((fault) => (
        <button
          key={fault.bit}
          type="button"
          aria-pressed={(state.faults & fault.bit) !== 0}
          className={chip((state.faults & fault.bit) !== 0)}
          onClick={() => void send({ faults: state.faults ^ fault.bit })}
        >
          {fault.name}
        </button>
      ))}
      {visit.current === 'apply' && !visit.writable && calibration && (
        <button
          type="button"
          className={chip(false)}
          onClick={() =>
            void send({
              keyIn: {
                slopePercent: Math.round(1000 * calibration.slopeEfficiency) / 10,
                zero: Math.round(10 * calibration.zero) / 10,
              },
            })
          }
        >
          key the numbers in
        </button>
      )}
    </section>
  )
}
