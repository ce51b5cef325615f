import type { StepView, TypedReadingFields, VisitLive, VisitView } from '@frustum/contract'
import { CAPTURE_STEPS } from '@frustum/core'
import { Bell, BellOff } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { useParams } from 'react-router'
import { ago, clock, ph, signed } from '../../parts/format.ts'
import { Problem, Waiting } from '../../parts/Problem.tsx'
import { ReasonDialog } from '../../parts/ReasonDialog.tsx'
import { useSiteQuery, useVisitQuery } from '../../store/api.ts'
import { useVisitLive } from '../../store/live.ts'
import { chimeToggled } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import { ApplyPanel } from './ApplyPanel.tsx'
import { Arithmetic } from './Arithmetic.tsx'
import { Caution } from './Caution.tsx'
import { DecisionPanel } from './DecisionPanel.tsx'
import { DonePanel } from './DonePanel.tsx'
import { Ladder } from './Ladder.tsx'
import { LiveReading } from './LiveReading.tsx'
import { ResultPanel } from './ResultPanel.tsx'
import { StandInStrip } from './StandInStrip.tsx'
import { stepText } from './stepTexts.ts'
import { TraceChart } from './TraceChart.tsx'
import { TypedReadings } from './TypedReadings.tsx'
import { useChime } from './useChime.ts'
import { useVisitActions } from './useVisitActions.ts'

export function BenchRoom() {
  const { id = '' } = useParams()
  const { data: visit, error, refetch } = useVisitQuery(id, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const { live, trace, connected } = useVisitLive(id)
  const revision = live?.revision

  // Somebody wrote to this visit, here or in another browser: fetch what it is now.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the revision is the trigger
  useEffect(() => {
    if (revision !== undefined) void refetch()
  }, [revision, refetch])

  if (error && !visit) {
    return (
      <div className="p-6">
        <Problem error={error} onRetry={() => void refetch()} />
      </div>
    )
  }
  if (!visit || !site) {
    return (
      <div className="p-6">
        <Waiting what="the Bench" />
      </div>
    )
  }
  if (visit.closedAt) {
    return (
      <div className="p-6 sm:p-10">
        <DonePanel visit={visit} timeZone={site.timeZone} />
      </div>
    )
  }
  return (
    <OpenVisit key={visit.id} visit={visit} live={live} trace={trace} connected={connected} timeZone={site.timeZone} />
  )
}

interface OpenVisitProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  connected: boolean
  timeZone: string
}

function OpenVisit({ visit, live, trace, connected, timeZone }: OpenVisitProps) {
  const { run, asker } = useVisitActions(visit.id)
  const [redo, setRedo] = useState<StepView | null>(null)
  const [ending, setEnding] = useState(false)
  const mine = visit.holder?.clientId === asker.clientId
  useHotkeys('r', () => setRedo(visit.steps.findLast((s) => s.status === 'done') ?? null), { enabled: mine })
  return (
    <div className="flex flex-1 flex-col">
      {!connected && (
        <p role="alert" className="bg-[color:var(--brass-tint)] px-5 py-2">
          The server does not answer. What was captured is safe; this page goes on by itself.
        </p>
      )}
      {!mine && visit.holder && (
        <div
          role="alert"
          className="flex flex-wrap items-center gap-x-6 gap-y-2 border-b border-base-300 bg-[color:var(--brass-tint)] px-5 py-3"
        >
          <p>
            <strong>{visit.holder.name}</strong> has this sensor in hand since {clock(visit.holder.since, timeZone)} (
            {ago(visit.holder.since)}). You can watch.
          </p>
          <button type="button" className="slant" onClick={() => void run('take-over')}>
            Take over
          </button>
        </div>
      )}
      <div className="flex flex-1 flex-col lg:flex-row">
        <Ladder visit={visit} onRedo={(step) => mine && setRedo(step)} />
        <section className="flex min-w-0 flex-1 flex-col">
          <Stage visit={visit} live={live?.step === visit.current ? live : null} trace={trace} mine={mine} />
          <div className="px-5 pb-3 sm:px-7">
            <button
              type="button"
              className="min-h-11 underline underline-offset-4 soft"
              disabled={!mine}
              onClick={() => setEnding(true)}
            >
              End without a result
            </button>
          </div>
        </section>
        <Arithmetic visit={visit} live={live} />
      </div>
      {visit.standIn && live && <StandInStrip visit={visit} live={live} />}
      {redo && (
        <ReasonDialog
          title={`Take "${stepText(visit, redo.key).short}" again?`}
          explain="What was captured stays in the record; the new reading counts. Steps that rest on it are open again."
          usual={['Looked wrong', 'Wrong cup', 'Disturbed']}
          confirm="Take it again"
          onClose={() => setRedo(null)}
          onConfirm={(reason) => {
            setRedo(null)
            void run('redo', { step: redo.key, reason })
          }}
        />
      )}
      {ending && (
        <ReasonDialog
          title="End this visit without a result?"
          explain="The points stay in the record. Slope, zero and the next date stay as they were. Take the hold off yourself."
          usual={['Called away', 'No fresh buffer', 'Probe broken']}
          confirm="End it"
          onClose={() => setEnding(false)}
          onConfirm={(reason) => {
            setEnding(false)
            void run('abandon', { reason })
          }}
        />
      )}
    </div>
  )
}

interface StageProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  mine: boolean
}

/** The step at hand fills the screen: what to do, the reading, and one main button. */
function Stage({ visit, live, trace, mine }: StageProps) {
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

interface CaptureProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

function Capture({ visit, live, trace, busy, run }: CaptureProps) {
  const [early, setEarly] = useState(false)
  const chime = useAppSelector((s) => s.person.chime)
  const dispatch = useAppDispatch()
  const step = visit.current as NonNullable<VisitView['current']>
  const stable = live?.opinion?.state === 'stable' && live.blindSince === null && live.finding?.severity !== 'stop'
  useChime(stable, chime)
  useHotkeys('m', () => void dispatch(chimeToggled()))
  useHotkeys('e', () => setEarly(true), { enabled: !stable && live?.opinion != null })
  const take = (earlyReason?: string) => void run('capture', { step, ...(earlyReason ? { earlyReason } : {}) })
  const type = async (fields: TypedReadingFields) => {
    const problem = await run('typed', { step, ...fields })
    return problem ? (problem.fields ?? {}) : null
  }
  if (!live) return <Waiting what="the reading" />
  return (
    <>
      <LiveReading live={live} judged />
      <TraceChart trace={trace} live={live} />
      {!visit.linked && <TypedReadings visit={visit} live={live} onType={type} />}
      <div className="sticky bottom-12 z-10 flex flex-wrap items-center gap-x-5 gap-y-3 bg-base-100 py-2 sm:static">
        <MainButton label="Take it" disabled={!stable || busy} onPress={() => take()} />
        {!stable && live.opinion && (
          <button
            type="button"
            className="slant"
            disabled={busy || live.blindSince !== null}
            onClick={() => setEarly(true)}
          >
            Take it now, with a reason <kbd className="key">E</kbd>
          </button>
        )}
        <SkipOnly key={step} visit={visit} onSkip={(reason) => void run('skip', { step, reason })} />
        <button
          type="button"
          className="ml-auto flex min-h-11 min-w-11 items-center gap-2 soft"
          aria-pressed={chime}
          onClick={() => dispatch(chimeToggled())}
        >
          {chime ? <Bell className="size-5" aria-hidden="true" /> : <BellOff className="size-5" aria-hidden="true" />}
          {chime ? 'Chimes when stable' : 'Silent'} <kbd className="key">M</kbd>
        </button>
      </div>
      {early && (
        <ReasonDialog
          title="Take it before it is stable?"
          explain="It is marked as early in the record, with the uncertainty that it has now."
          usual={
            live.finding ? ['I am sure of the cup', 'Testing'] : ['No time', 'It hardly moves', 'Known slow electrode']
          }
          confirm="Take it now"
          onClose={() => setEarly(false)}
          onConfirm={(reason) => {
            setEarly(false)
            take(reason)
          }}
        />
      )}
    </>
  )
}

function MainButton({ label, disabled, onPress }: { label: string; disabled: boolean; onPress: () => void }) {
  useHotkeys('space', onPress, { preventDefault: true, enabled: !disabled })
  return (
    <button
      type="button"
      className="slant slant-strong min-h-14 px-9 text-xl max-sm:w-[94%]"
      disabled={disabled}
      onClick={onPress}
      data-testid="main"
    >
      {label} <kbd className="key">Space</kbd>
    </button>
  )
}

function SkipOnly({ visit, onSkip }: { visit: VisitView; onSkip: (reason: string) => void }) {
  const [asking, setAsking] = useState(false)
  const step = visit.current
  const usual = step ? stepText(visit, step).usualSkips : []
  useHotkeys('s', () => setAsking(true), { enabled: usual.length > 0 })
  if (!step || usual.length === 0) return null
  return (
    <>
      <button type="button" className="slant slant-plain" onClick={() => setAsking(true)}>
        Skip <kbd className="key">S</kbd>
      </button>
      {asking && (
        <ReasonDialog
          title={`Skip "${stepText(visit, step).short}"?`}
          explain="The record keeps that it was skipped, and why."
          usual={usual}
          confirm="Skip it"
          onClose={() => setAsking(false)}
          onConfirm={(reason) => {
            setAsking(false)
            onSkip(reason)
          }}
        />
      )}
    </>
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
