import type { BenchContext } from '@frustum/contract'
import type { StandInBody, StandInView } from '../src/server/contract.ts'

interface StandInStripProps {
  context: BenchContext
  view: StandInView
  play: (body: Partial<StandInBody>) => Promise<void>
}

/** Nobody can dip a simulated sensor, so this strip does. Only stand-ins have it. */
export function StandInStrip({ context: { visit }, view, play }: StandInStripProps) {
  const { baths, faults, state } = view
  const cleaning = visit.current?.startsWith('clean') ?? false
  const parameters = visit.result?.apply ?? []
  return (
    <section aria-label="Stand-in" className="standin no-print">
      <h2>Stand-in is in</h2>
      {baths.map((bath) => (
        <button
          key={bath.name}
          type="button"
          aria-pressed={state.bath === bath.name}
          onClick={() => void play({ bath: bath.name, ...(bath.name === 'rinse' && cleaning ? { wipe: true } : {}) })}
        >
          {bath.label}
        </button>
      ))}
      <label>
        <strong>Fault</strong>
        <select value="" onChange={(e) => void play({ faults: state.faults ^ Number(e.target.value) })}>
          <option value="">choose one</option>
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
            onClick={() => void play({ faults: state.faults ^ fault.bit })}
          >
            {fault.label}
          </button>
        ))}
      {visit.current === 'apply' && !visit.writable && parameters.length > 0 && (
        <button
          type="button"
          aria-pressed="false"
          onClick={() => void play({ keyIn: Object.fromEntries(parameters.map((p) => [p.key, p.value])) })}
        >
          Key in the calibration
        </button>
      )}
    </section>
  )
}
