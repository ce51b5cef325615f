import type { VisitLive, VisitView } from '@frustum/contract'
import { toast } from 'sonner'
import { problemOf, usePlayStandInMutation } from '../../store/api.ts'

/** Nobody can dip a simulated sensor, so this strip does. Only stand-ins have it. */
export function StandInStrip({ visit, live }: { visit: VisitView; live: VisitLive }) {
  const [play] = usePlayStandInMutation()
  if (!visit.standIn) return null
  const { baths, faults } = visit.standIn
  const state = live.standIn ?? { bath: 'process', faults: 0 }
  const send = async (body: Parameters<typeof play>[0]['body']) => {
    const answer = await play({ position: visit.position, body })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  const chip = (on: boolean) =>
    `min-h-11 min-w-11 border px-1.5 ${on ? 'border-neutral bg-neutral text-neutral-content font-bold' : 'border-[color:var(--line)] bg-base-100'}`
  const cleaning = visit.current?.startsWith('clean') ?? false
  const numbers = visit.result?.apply ?? []
  return (
    <section
      aria-label="Stand-in"
      className="no-print flex flex-wrap items-center gap-x-1.5 gap-y-2 border-base-300 bg-base-200 px-5 py-2 text-sm max-sm:border-t sm:order-first sm:border-b"
    >
      <h2 className="pr-1 text-sm">Stand-in is in</h2>
      {baths.map((bath) => (
        <button
          key={bath.name}
          type="button"
          aria-pressed={state.bath === bath.name}
          className={chip(state.bath === bath.name)}
          onClick={() => void send({ bath: bath.name, ...(bath.name === 'rinse' && cleaning ? { wipe: true } : {}) })}
        >
          {bath.label}
        </button>
      ))}
      <label className="flex min-h-11 items-center gap-2 pl-3">
        <span className="font-bold">play</span>
        <select
          className="min-h-11 border border-[color:var(--line)] bg-base-100 px-2"
          value=""
          onChange={(e) => void send({ faults: state.faults ^ Number(e.target.value) })}
        >
          <option value="">a fault</option>
          {faults.map((fault) => (
            <option key={fault.bit} value={fault.bit}>
              {(state.faults & fault.bit) !== 0 ? `\u2713 ${fault.label}` : fault.label}
            </option>
          ))}
        </select>
      </label>
      {faults
        .filter((fault) => (state.faults & fault.bit) !== 0)
        .map((fault) => (
          <button
            key={fault.bit}
            type="button"
            aria-pressed="true"
            className={chip(true)}
            onClick={() => void send({ faults: state.faults ^ fault.bit })}
          >
            {fault.label}
          </button>
        ))}
      {visit.current === 'apply' && !visit.writable && numbers.length > 0 && (
        <button
          type="button"
          className={chip(false)}
          onClick={() => void send({ keyIn: Object.fromEntries(numbers.map((n) => [n.key, n.value])) })}
        >
          key the numbers in
        </button>
      )}
    </section>
  )
}
