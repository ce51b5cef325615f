import type { VisitLive, VisitView } from '@frustum/contract'
import { CAPTURE_STEPS } from '@frustum/core'
import { ph, signed } from '../../parts/format.ts'
import { ApplyPanel } from './ApplyPanel.tsx'
import { Capture, LotLine } from './Capture.tsx'
import { Caution } from './Caution.tsx'
import { DecisionPanel } from './DecisionPanel.tsx'
import { LiveReading } from './LiveReading.tsx'
import { ResultPanel } from './ResultPanel.tsx'
import { MainButton, SkipOnly } from './StepButtons.tsx'
import { stepText } from './stepTexts.ts'
import { useVisitActions } from './useVisitActions.ts'

interface StageProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  mine: boolean
}

/** The step at hand fills the screen: what to do, the reading, and one main button. */
export function Stage({ visit, live, trace, mine }: StageProps) {
  const { run, busy } = useVisitActions(visit.id)
  const step = visit.current
  if (!step) return null
  const text = stepText(visit, step)
  const captures = CAPTURE_STEPS.includes(step)
  const decide = (decision: string, note: string) => {
    void run('decide', { decision, ...(note ? { note } : {}) }).then((problem) => {
      if (problem) return
      // Two decisions mean more work at the electrode: the step to go back to follows from them.
      if (decision === 'repeat') void run('redo', { step: 'first-buffer', reason: 'Decided to take the points again' })
      if (decision === 'clean-and-recheck') void run('redo', { step: 'clean', reason: 'Decided to clean and recheck' })
    })
  }
  return (
    <div className="flex-1 space-y-3 px-5 py-4 sm:px-7" inert={!mine}>
      <h2 className="text-2xl">{text.title}</h2>
      {text.hint && <p className="max-w-prose soft">{text.hint}</p>}
      {step === 'hold' && visit.cautions.map((c) => <Caution key={c}>{c}</Caution>)}
      {step === 'clean' && (
        <Caution>Cleaners are acidic or caustic: gloves and eye protection, and never mix two of them.</Caution>
      )}
      {step === 'result' && visit.result && (
        <ResultPanel visit={visit} result={visit.result} busy={busy} onDecide={decide} />
      )}
      {step === 'verdict' && visit.verdict && (
        <VerdictStep
          visit={visit}
          busy={busy}
          onLeave={(note) => decide('leave-alone', note)}
          onGoOn={() => void run('go-on')}
        />
      )}
      {step === 'apply' && (
        <>
          <ApplyPanel
            visit={visit}
            busy={busy}
            onApply={async (way, shownAfter) =>
              (await run('apply', { way, ...(shownAfter ? { shownAfter } : {}) }))?.fields ?? null
            }
          />
          <SkipOnly key={step} visit={visit} onSkip={(reason) => void run('skip', { step, reason })} />
        </>
      )}
      <LotLine visit={visit} />
      {captures && <Capture visit={visit} live={live} trace={trace} busy={busy} run={run} />}
      {['hold', 'clean', 'rinse', 'release'].includes(step) && (
        <>
          {live && visit.linked && <LiveReading live={live} judged={false} />}
          {step === 'release' && <BeforeAndAfter visit={visit} />}
          <MainButton label={text.main} disabled={busy} onPress={() => void run('done', { step })} />
          {text.usualSkips.length > 0 && (
            <SkipOnly key={step} visit={visit} onSkip={(reason) => void run('skip', { step, reason })} />
          )}
        </>
      )}
    </div>
  )
}

interface VerdictStepProps {
  visit: VisitView
  busy: boolean
  onLeave: (note: string) => void
  onGoOn: () => void
}

function VerdictStep({ visit, busy, onLeave, onGoOn }: VerdictStepProps) {
  const { verdict } = visit
  if (!verdict) return null
  return (
    <div className="space-y-4">
      <p className="text-5xl font-bold">
        {ph(verdict.shown)} <span className="text-xl font-normal soft">where {ph(verdict.right)} is right</span>
      </p>
      <DecisionPanel
        proposal={verdict.proposal}
        choices={['leave-alone', 'adjust']}
        busy={busy}
        onDecide={(decision, note) => (decision === 'leave-alone' ? onLeave(note) : onGoOn())}
      >
        {verdict.proposal.decision === 'adjust' && (
          <p className="soft">To adjust, the visit goes on with cleaning and two points.</p>
        )}
      </DecisionPanel>
    </div>
  )
}

function BeforeAndAfter({ visit }: { visit: VisitView }) {
  const before = visit.steps.find((s) => s.key === 'found-process')?.reading
  const after = visit.steps.find((s) => s.key === 'back')?.reading
  if (!before || !after) return null
  const jump = after.shown - before.shown
  const found = visit.result?.asFoundError ?? 0
  const expected = visit.applied ? -found : 0
  const odd = Math.abs(jump - expected) > 2 * visit.tolerance
  return (
    <p className={odd ? 'border-l-4 border-error pl-3' : ''}>
      In the process: <strong>{ph(before.shown)}</strong> before, <strong>{ph(after.shown)}</strong> now (
      {signed(jump, 2)}).{' '}
      {odd
        ? 'That is a larger jump than this visit explains. Find out why before you leave.'
        : 'That fits what was done.'}
    </p>
  )
}
