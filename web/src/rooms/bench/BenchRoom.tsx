import type { VisitLive, VisitView } from '@frustum/contract'
import type { StepView } from '@frustum/core'
import { useEffect, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Link, useParams } from 'react-router'
import { For } from '../../components/For.tsx'
import { ago, clock, plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { BenchExtensions, type BenchParts } from '../../extensions/BenchExtensions.tsx'
import { useSiteQuery, useVisitQuery } from '../../store/api.ts'
import { useVisitLive } from '../../store/live.ts'
import { Arithmetic } from './Arithmetic.tsx'
import { DonePanel } from './DonePanel.tsx'
import { Ladder } from './Ladder.tsx'
import { Stage } from './Stage.tsx'
import { useVisitActions, withQueued } from './useVisitActions.ts'

export function BenchRoom() {
  const { id = '' } = useParams()
  const { data: visit, error, refetch } = useVisitQuery(id, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const { live, trace, connected } = useVisitLive(id)

  // Somebody wrote to this visit in another browser: fetch what it is now.
  const behind = visit !== undefined && live !== null && live.revision > visit.revision
  useEffect(() => {
    if (behind) void refetch()
  }, [behind, refetch])

  if (!visit || !site) return <Fetching what="the Bench" error={error} onRetry={refetch} />
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

function OpenVisit({ visit: recorded, live, trace, connected, timeZone }: OpenVisitProps) {
  const { run, actor, waiting } = useVisitActions(recorded.id)
  const visit = withQueued(recorded, waiting)
  const parts: BenchParts = useRef(new Set())
  const [redo, setRedo] = useState<StepView | null>(null)
  const [ending, setEnding] = useState(false)
  // A pending result belongs to nobody: whoever has it enters it.
  const mine = visit.holder === null || visit.holder.clientId === actor.clientId
  // A new step begins at its first word, also where the buttons of the last one were far down.
  // biome-ignore lint/correctness/useExhaustiveDependencies: runs on every change of step
  useEffect(() => {
    window.scrollTo(0, 0)
  }, [visit.current])
  useHotkeys('r', () => setRedo(visit.steps.findLast((s) => s.status === 'done') ?? null), { enabled: mine })
  return (
    <div className="flex flex-1 flex-col">
      {(!connected || waiting.length > 0) && (
        <p role="alert" className="bg-[color:var(--brass-tint)] px-5 py-2">
          {waiting.length > 0
            ? `No connection. ${plural(waiting.length, 'step')} queued, saved in this browser until it’s back.`
            : 'No connection. Captured readings are safe.'}
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
          <For needs="operator">
            <button type="button" className="slant" onClick={() => void run('takeOver', {})}>
              Take over
            </button>
          </For>
        </div>
      )}
      <div className="flex flex-1 flex-col lg:flex-row">
        <Ladder key={visit.current} visit={visit} onRedo={(step) => mine && setRedo(step)} />
        <section className="flex min-w-0 flex-1 flex-col">
          <Stage
            visit={visit}
            live={live?.step === visit.current ? live : null}
            trace={trace}
            mine={mine}
            parts={parts}
          />
          <div className="flex flex-wrap gap-x-6 px-5 pb-3 sm:px-7">
            {visit.trip && (
              <Link to={`/trips/${visit.trip}`} className="min-h-11 content-center underline underline-offset-4 soft">
                Leave it here, back to the trip
              </Link>
            )}
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
      <BenchExtensions visit={visit} live={live} parts={parts} />
      {redo && (
        <ReasonDialog
          title={`Take "${redo.short}" again?`}
          explain="What was captured stays in the record; the new reading counts. Steps that rest on it are open again."
          usual={['Looked wrong', 'Wrong cup', 'Disturbed']}
          confirm="Repeat step"
          other={
            redo.repeatable
              ? {
                  label: 'Read it once more',
                  explain:
                    'Or rinse and read it a further time: the mean counts, and the scatter is told with the result.',
                  onPress: () => {
                    setRedo(null)
                    void run('redo', { step: redo.key, reason: 'To see whether it repeats', keeps: true })
                  },
                }
              : undefined
          }
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
          explain="The readings stay in the record. The calibration and the next date stay as they were. Take the hold off yourself."
          usual={['Called away', 'No fresh buffer', 'Probe broken']}
          confirm="End visit"
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
