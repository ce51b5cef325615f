import type { VisitLive, VisitView } from '@frustum/contract'
import { ago, text } from '../../components/format.ts'
import type { BenchParts } from '../../extensions/BenchExtensions.tsx'
import { ApplyPanel } from './ApplyPanel.tsx'
import { Capture, LotLine } from './Capture.tsx'
import { Cautions } from './Caution.tsx'
import { ConfirmStep } from './ConfirmStep.tsx'
import { FormStep } from './FormStep.tsx'
import { LiveReading } from './LiveReading.tsx'
import { ResultPanel } from './ResultPanel.tsx'
import { Skip } from './StepButtons.tsx'
import { useVisitActions } from './useVisitActions.ts'
import { WaitStep } from './WaitStep.tsx'

interface StageProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  mine: boolean
  parts: BenchParts
}

/** The step at hand fills the screen: what to do, the reading, and one main button. */
export function Stage({ visit, live, trace, mine, parts }: StageProps) {
  const { run, busy, waiting } = useVisitActions(visit.id)
  const step = visit.now
  if (!step) return null
  const common = { step, busy, run }
  return (
    <div className="flex-1 space-y-3 px-5 py-4 sm:px-7" inert={!mine}>
      <h2 className="text-2xl">{text(step.title)}</h2>
      {step.hint && <p className="max-w-prose soft">{text(step.hint)}</p>}
      <Cautions cautions={visit.cautions} />
      <LineChanged visit={visit} busy={busy} run={run} />
      {(step.kind === 'result' || step.kind === 'verdict') && visit.result && (
        <ResultPanel
          visit={visit}
          result={visit.result}
          busy={busy}
          onDecide={async (decision, note) =>
            (await run('decide', { step: step.key, decision, ...(note ? { note } : {}) })) === null
          }
          onSkip={(key, reason) => void run('skip', { step: key, reason })}
        />
      )}
      {(step.kind === 'result' || step.kind === 'verdict') && !visit.result && waiting.length > 0 && (
        <p role="status" className="max-w-prose text-lg">
          The result is computed once the connection is back. The readings are saved in this browser.
        </p>
      )}
      {step.kind === 'apply' && (
        <>
          <ApplyPanel
            visit={visit}
            busy={busy}
            onApply={async (given) => (await run('apply', given))?.fields ?? null}
          />
          <Skip
            key={step.key}
            step={step}
            disabled={busy}
            onSkip={(reason) => void run('skip', { step: step.key, reason })}
          />
        </>
      )}
      {step.kind === 'capture' && (
        <>
          {waiting.length === 0 && <LotLine visit={visit} step={step} />}
          <Capture key={step.key} visit={visit} live={live} trace={trace} {...common} />
        </>
      )}
      {step.kind === 'wait' && <WaitStep key={step.key} visit={visit} mine={mine} {...common} />}
      {step.kind === 'form' && <FormStep key={step.key} visit={visit} live={live} parts={parts} {...common} />}
      {step.kind === 'confirm' && (
        <>
          {/* Its place is kept until the first value is there, so that the button does not jump from under the thumb. */}
          {visit.linked && (
            <div className="min-h-33 max-sm:min-h-22">{live && <LiveReading live={live} judged={false} />}</div>
          )}
          {step.key === 'release' && <BeforeAndAfter visit={visit} />}
          <ConfirmStep key={step.key} {...common} />
        </>
      )}
    </div>
  )
}

function BeforeAndAfter({ visit }: { visit: VisitView }) {
  const { beforeAndAfter } = visit
  if (!beforeAndAfter) return null
  const { before, after, jump, odd } = beforeAndAfter
  return (
    <p className={odd ? 'border-l-4 border-error pl-3' : ''}>
      In the process: <strong>{text(before)}</strong> before, <strong>{text(after)}</strong> now ({text(jump)}).{' '}
      {odd
        ? 'That is a larger jump than this visit explains. Find out why before you leave.'
        : 'That fits what was done.'}
    </p>
  )
}

/** Somebody gave the sensor another line meanwhile: what came over the one before is to be read again. */
function LineChanged({
  visit,
  busy,
  run,
}: {
  visit: VisitView
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}) {
  const { lineChanged } = visit
  if (!lineChanged) return null
  const { at, steps } = lineChanged
  return (
    <div role="status" className="max-w-prose border-l-4 border-warning bg-base-200 p-3">
      <p>
        <strong>The line of this sensor was changed {ago(at)}.</strong> The visit goes on as it began
        {steps.length > 0 ? '; these were read over the line before. Take them again.' : '.'}
      </p>
      <p className="flex flex-wrap gap-3 pt-2">
        {steps.map(({ key, label }) => (
          <button
            key={key}
            type="button"
            className="slant"
            disabled={busy}
            onClick={() => void run('redo', { step: key, reason: 'The line was changed' })}
          >
            {label}
          </button>
        ))}
      </p>
    </div>
  )
}
