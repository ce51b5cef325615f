import type { VisitView } from '@frustum/contract'
import type { StepView } from '@frustum/core'
import { Check, ChevronDown, Minus } from 'lucide-react'
import { useState } from 'react'
import { text } from '../../components/format.ts'

/** Where one stands: done steps can be taken again, with a reason. */
export function Ladder({ visit, onRedo }: { visit: VisitView; onRedo: (step: StepView) => void }) {
  // On a small screen only the step at hand stands here until the others are asked for.
  const [all, setAll] = useState(false)
  const at = visit.steps.findIndex((s) => s.status === 'now')
  return (
    <nav aria-label="Steps" className="border-base-300 lg:w-63 lg:shrink-0 lg:border-r">
      <h1 className="px-5 pt-4 pb-2 text-base">
        <span className="font-bold">{visit.position}</span>{' '}
        <span className="font-normal soft">{visit.procedureName.toLowerCase()}</span>
      </h1>
      {at >= 0 && (
        <button
          type="button"
          className="flex min-h-11 items-center gap-1 px-5 underline underline-offset-4 soft lg:hidden"
          aria-expanded={all}
          onClick={() => setAll(!all)}
        >
          Step {at + 1}
          <ChevronDown className={`size-4 ${all ? 'rotate-180' : ''}`} aria-hidden="true" />
        </button>
      )}
      <ol className="max-lg:pb-2">
        {visit.steps.map((step) => (
          <li key={step.key} className={step.status === 'now' || all ? '' : 'max-lg:hidden'}>
            <Rung step={step} onRedo={onRedo} />
          </li>
        ))}
      </ol>
    </nav>
  )
}

function Rung({ step, onRedo }: { step: StepView; onRedo: (step: StepView) => void }) {
  const row = 'flex min-h-10 w-full items-center justify-between gap-3 px-5 text-left'
  if (step.status === 'now') {
    return (
      <span aria-current="step" className={`${row} rung-now min-h-11 font-bold text-primary-content`}>
        {step.short} <span className="text-sm">now</span>
      </span>
    )
  }
  if (step.status === 'ahead') return <span className={`${row} soft`}>{step.short}</span>
  return (
    <button
      type="button"
      className={`${row} hover:bg-base-200`}
      title={step.reason ?? 'Take this step again'}
      onClick={() => onRedo(step)}
    >
      <span>{step.short}</span>
      <span className="flex items-center gap-1 text-sm whitespace-nowrap soft">
        {step.read && text(step.read)}
        {step.count > 1 && <span title={`Mean of ${step.count} readings`}>×{step.count}</span>}
        {step.reading?.earlyReason && <span title={step.reading.earlyReason}>early</span>}
        {!step.reading &&
          (step.status === 'skipped' ? (
            <Minus className="size-4" aria-label="skipped" />
          ) : (
            <Check className="size-4" aria-label="done" />
          ))}
      </span>
    </button>
  )
}
