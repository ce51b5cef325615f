import type { VisitView } from '@frustum/contract'
import type { Step } from '@frustum/core'
import { useEffect, useState } from 'react'
import { duration } from '../../components/format.ts'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { useNow } from '../../store/clock.ts'
import { MainButton, Skip } from './StepButtons.tsx'
import type { useVisitActions } from './useVisitActions.ts'

interface WaitStepProps {
  visit: VisitView
  step: Step
  /** Whether this browser has the sensor in hand. */
  mine: boolean
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

/** Something that takes its time: begin it, go away, come back. The strip above every room counts down. */
export function WaitStep({ visit, step, mine, busy, run }: WaitStepProps) {
  const [minutes, setMinutes] = useState(step.minutes ?? 60)
  const [early, setEarly] = useState(false)
  const now = useNow(1000)
  const { waiting } = visit
  const left = waiting && waiting.since + waiting.minutes * 60_000 - now
  const over = left !== null && left <= 0
  const goesOn = over && mine && step.goesOn === true
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the time is over
  useEffect(() => {
    if (goesOn) void run('done', { step: step.key })
  }, [goesOn])
  if (!waiting || left === null) {
    const choices = [...new Set([step.minutes ?? 60, 30, 60, 120, 24 * 60])].sort((a, b) => a - b)
    return (
      <div className="space-y-5">
        {!step.goesOn && (
          <fieldset>
            <legend className="pb-2 font-bold">How long?</legend>
            <div className="flex flex-wrap gap-3">
              {choices.map((m) => (
                <button
                  key={m}
                  type="button"
                  aria-pressed={m === minutes}
                  className={`slant ${m === minutes ? '' : 'slant-plain'}`}
                  onClick={() => setMinutes(m)}
                >
                  {duration(m)}
                </button>
              ))}
            </div>
          </fieldset>
        )}
        <div className="flex flex-wrap gap-5">
          <MainButton label={step.main} disabled={busy} onPress={() => void run('wait', { step: step.key, minutes })} />
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
  const share = Math.min(1, Math.max(0, 1 - left / (waiting.minutes * 60_000)))
  return (
    <div className="space-y-5">
      <p className="text-[clamp(3rem,9vw,6rem)] leading-none font-bold" data-testid="time-left">
        {over ? 'ready' : duration(left / 60_000)}
      </p>
      <svg
        viewBox="0 0 300 24"
        preserveAspectRatio="none"
        className="h-6 w-full max-w-xl"
        role="img"
        aria-label={`${Math.round(100 * share)} % over`}
      >
        <polygon points="0,8 300,0 300,24 0,16" className="fill-base-300" />
        <polygon
          points={`0,8 ${300 * share},${8 - 8 * share} ${300 * share},${16 + 8 * share} 0,16`}
          className="fill-primary"
        />
      </svg>
      <p className="soft">
        {over
          ? 'The time is over.'
          : step.goesOn
            ? 'It goes on by itself. If what it shows moves again, begin anew.'
            : 'You may leave this sensor and do something else; the strip in every room keeps counting.'}
      </p>
      <div className="flex flex-wrap gap-5">
        {over ? (
          <MainButton label="Go on" disabled={busy} onPress={() => void run('done', { step: step.key })} />
        ) : step.goesOn ? (
          <button
            type="button"
            className="slant"
            disabled={busy}
            onClick={() => void run('wait', { step: step.key, minutes })}
          >
            It moved: begin anew
          </button>
        ) : (
          <button type="button" className="slant" disabled={busy} onClick={() => setEarly(true)}>
            Go on earlier, with a reason <kbd className="key">E</kbd>
          </button>
        )}
      </div>
      {early && (
        <ReasonDialog
          title="Go on before the time is over?"
          explain="The record keeps how long it really was, and why."
          usual={['It is ready already', 'No time', 'Blown dry']}
          confirm="Go on"
          onClose={() => setEarly(false)}
          onConfirm={(reason) => {
            setEarly(false)
            void run('skip', { step: step.key, reason })
          }}
        />
      )}
    </div>
  )
}
