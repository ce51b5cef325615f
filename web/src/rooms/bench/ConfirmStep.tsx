import type { Step } from '@frustum/core'
import { useState } from 'react'
import { MainButton, Skip } from './StepButtons.tsx'
import type { useVisitActions } from './useVisitActions.ts'

/** The usual reason not to clean, in one press. */
export const CLEAN = 'It is clean'

interface ConfirmStepProps {
  step: Step
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

/** Something done by hand; where it matters, each part of it is ticked first. */
export function ConfirmStep({ step, busy, run }: ConfirmStepProps) {
  const [ticked, setTicked] = useState<readonly string[]>([])
  const ticks = step.ticks ?? []
  const all = ticks.every((t) => ticked.includes(t))
  const toggle = (tick: string) =>
    setTicked(ticked.includes(tick) ? ticked.filter((t) => t !== tick) : [...ticked, tick])
  return (
    <div className="space-y-4">
      {ticks.length > 0 && (
        <ul className="max-w-xl">
          {ticks.map((tick) => (
            <li key={tick} className="border-b border-base-300">
              <label className="flex min-h-14 cursor-pointer items-center gap-4 text-lg">
                <input
                  type="checkbox"
                  className="checkbox border-[color:var(--line)] text-primary"
                  checked={ticked.includes(tick)}
                  onChange={() => toggle(tick)}
                />
                {tick}
              </label>
            </li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap gap-5 max-sm:sticky max-sm:bottom-12 max-sm:z-10 max-sm:bg-base-100 max-sm:py-2">
        <MainButton label={step.main} disabled={busy || !all} onPress={() => void run('done', { step: step.key })} />
        {step.key === 'clean' && step.usualSkips.includes(CLEAN) && (
          <button
            type="button"
            className="slant"
            disabled={busy}
            onClick={() => void run('skip', { step: step.key, reason: CLEAN })}
          >
            {CLEAN}
          </button>
        )}
        <Skip
          key={step.key}
          step={step}
          disabled={busy}
          onSkip={(reason) => void run('skip', { step: step.key, reason })}
        />
      </div>
    </div>
  )
}
