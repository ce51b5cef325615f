import type { TypedReadingFields, VisitLive, VisitView } from '@frustum/contract'
import { Bell, BellOff } from 'lucide-react'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { plural } from '../../parts/format.ts'
import { Waiting } from '../../parts/Problem.tsx'
import { ReasonDialog } from '../../parts/ReasonDialog.tsx'
import { chimeToggled } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import { LiveReading } from './LiveReading.tsx'
import { MainButton, SkipOnly } from './StepButtons.tsx'
import { TraceChart } from './TraceChart.tsx'
import { TypedReadings } from './TypedReadings.tsx'
import { useChime } from './useChime.ts'
import type { useVisitActions } from './useVisitActions.ts'

const STANDARD_STEPS = {
  'found-buffer': 'first',
  'first-buffer': 'first',
  'second-buffer': 'second',
  verify: 'first',
} as const

/** What to pour from, said before the reading and not after it. */
export function LotLine({ visit }: { visit: VisitView }) {
  const which = STANDARD_STEPS[visit.current as keyof typeof STANDARD_STEPS]
  const lot = which && visit.lots[visit[which]]
  if (!which) return null
  if (!lot) return <p className="soft">No lot of this buffer is noted; the record will say so.</p>
  const bad = lot.expired
    ? `expired ${plural(lot.daysOver, 'day')} ago`
    : lot.openTooLong
      ? `open ${plural(lot.daysOver, 'day')} longer than it keeps`
      : null
  return (
    <p className={bad ? 'border-l-4 border-accent pl-3 font-bold' : 'soft'}>
      Pour from lot {lot.lot}
      {bad ? `: ${bad}. Take a fresh one if you have it.` : '.'}
    </p>
  )
}

interface CaptureProps {
  visit: VisitView
  live: VisitLive | null
  trace: [number, number][]
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

/** Watches the reading until it is known, and takes it. */
export function Capture({ visit, live, trace, busy, run }: CaptureProps) {
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
      <div className="max-sm:sticky max-sm:bottom-12 max-sm:z-10 max-sm:bg-base-100 max-sm:py-2 sm:float-left sm:mr-5">
        <MainButton label="Take it" disabled={!stable || busy} onPress={() => take()} />
      </div>
      <div className="flex min-h-14 flex-wrap items-center gap-x-5 gap-y-3">
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
