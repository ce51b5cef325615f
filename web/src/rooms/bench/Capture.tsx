import type { TypedReadingFields, VisitLive, VisitView } from '@frustum/contract'
import { POURING_ML, type Step } from '@frustum/core'
import { Bell, BellOff } from 'lucide-react'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { fixed, plural } from '../../components/format.ts'
import { Waiting } from '../../components/Problem.tsx'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import { useChime } from '../../components/useChime.ts'
import { chimeToggled } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import { Field } from './Field.tsx'
import { LiveReading } from './LiveReading.tsx'
import { MainButton, Skip } from './StepButtons.tsx'
import { inUnit, TemperatureUnit } from './TemperatureUnit.tsx'
import { TraceChart } from './TraceChart.tsx'
import { TypedReadings } from './TypedReadings.tsx'
import type { useVisitActions } from './useVisitActions.ts'

/** What to pour from, said before the reading and not after it. */
export function LotLine({ visit, step }: { visit: VisitView; step: Step }) {
  if (!step.role) return null
  const { lot } = visit
  if (!lot) return <p className="soft">No lot of this standard is on the Shelf; the record will say so.</p>
  const bad = lot.expired
    ? `expired ${plural(lot.daysOver, 'day')} ago. Take a fresh one if you have it`
    : lot.openTooLong
      ? `open ${plural(lot.daysOver, 'day')} longer than it keeps. Take a fresh one if you have it`
      : lot.left < POURING_ML
        ? `only ${Math.max(0, lot.left)} mL left by the book`
        : null
  return (
    <p className={bad ? 'border-l-4 border-accent pl-3 font-bold' : 'soft'}>
      Pour from lot {lot.lot}
      {lot.closed ? ', a new bottle: write the date on it' : ''}
      {bad ? `: ${bad}.` : `, ${lot.left} mL left. ${lot.storage}.`}
    </p>
  )
}

interface CaptureProps {
  visit: VisitView
  step: Step
  live: VisitLive | null
  trace: [number, number][]
  busy: boolean
  run: ReturnType<typeof useVisitActions>['run']
}

/** Watches the reading until it is known, and takes it. */
export function Capture({ visit, step, live, trace, busy, run }: CaptureProps) {
  const [early, setEarly] = useState(false)
  const chime = useAppSelector((s) => s.person.chime)
  const dispatch = useAppDispatch()
  const stopped = live?.finding?.severity === 'stop'
  const ready = live !== null && live.blindSince === null && !stopped && live.opinion !== null && live.taken
  useChime(ready && step.freezes !== true, chime)
  useHotkeys('m', () => void dispatch(chimeToggled()))
  useHotkeys('e', () => setEarly(true), { enabled: !ready && live?.opinion != null })
  const [warm, setWarm] = useState('')
  const [cold, setCold] = useState<string>()
  const [typing, setTyping] = useState(false)
  const { fahrenheit } = useAppSelector((s) => s.person)
  const take = async (earlyReason?: string) => {
    const temperature = live?.needsTemperature ? { temperature: inUnit(warm, fahrenheit) ?? '' } : {}
    const problem = await run('capture', { step: step.key, ...temperature, ...(earlyReason ? { earlyReason } : {}) })
    setCold(problem?.fields?.temperature)
  }
  const type = async (fields: TypedReadingFields & { still: boolean }) => {
    const problem = await run('typed', { step: step.key, ...fields })
    return problem ? (problem.fields ?? {}) : null
  }
  const skip = (
    <Skip
      key={step.key}
      step={step}
      disabled={busy}
      onSkip={(reason) => void run('skip', { step: step.key, reason })}
    />
  )
  const joined = visit.ahead[0]?.joins === step.key ? (visit.ahead[0] ?? null) : null
  const byHand = (
    <TypedReadings
      visit={visit}
      step={step}
      live={live}
      onType={type}
      joined={joined}
      onJoined={async (key, values) => {
        const problem = await run('fill', { step: key, values })
        return problem ? (problem.fields ?? {}) : null
      }}
    />
  )
  // Without a connection a manual reading is queued, and a step can still be left out.
  if (!live)
    return (
      <>
        {visit.linked ? <Waiting what="the reading" /> : byHand}
        {skip}
      </>
    )
  const slow = live.everySeconds !== null
  return (
    <>
      {(visit.linked || live.value !== null) && (
        <LiveReading live={live} judged={step.freezes !== true || live.finding !== null} typed={!visit.linked} />
      )}
      {visit.linked && !slow && <TraceChart trace={trace} live={live} />}
      {slow && (
        <p className="max-w-prose border-l-4 border-accent pl-3 text-pretty">
          This line gives a reading every {fixed(Math.round(live.everySeconds ?? 0), 0)} s: too seldom to see it settle.
          Three in a row that agree, over half a minute at least, are enough; or type what the display shows.
        </p>
      )}
      {visit.linked && live.needsTemperature && (
        <div className="flex items-center">
          <Field
            label="Temperature of what it stands in"
            unit=""
            hint="The line does not say it."
            error={cold}
            value={warm}
            onChange={(e) => setWarm(e.target.value)}
          />
          <TemperatureUnit />
        </div>
      )}
      {visit.linked && (slow || live.blindSince !== null) && (
        <button type="button" className="slant slant-plain" aria-expanded={typing} onClick={() => setTyping(!typing)}>
          {typing ? 'Wait for the line' : 'Type what the display shows'}
        </button>
      )}
      {(!visit.linked || (typing && (slow || live.blindSince !== null))) && byHand}
      {/* The main button stays within reach of the thumb; on a wide screen the others stay beside it. */}
      <div className="max-sm:contents sm:sticky sm:bottom-0 sm:z-10 sm:flex sm:flex-wrap sm:items-center sm:gap-x-4 sm:gap-y-3 sm:bg-base-100 sm:py-2">
        <div className="max-sm:sticky max-sm:bottom-12 max-sm:z-10 max-sm:bg-base-100 max-sm:py-2">
          {/* By eye the reading is kept where it is typed; captured here is only what was noted twice. */}
          {(visit.linked || (ready && !step.freezes)) && (
            <MainButton label={step.main} disabled={!ready || busy} onPress={() => void take()} />
          )}
        </div>
        {/* By eye a number has to be noted first. */}
        {(visit.linked || (live.value !== null && !step.freezes)) && !ready && live.opinion && (
          <button
            type="button"
            className="slant"
            disabled={busy || live.blindSince !== null}
            onClick={() => setEarly(true)}
          >
            Capture early <kbd className="key">E</kbd>
          </button>
        )}
        {skip}
        {visit.linked && (
          <button
            type="button"
            className="ml-auto flex min-h-11 min-w-11 items-center justify-center gap-2 soft"
            title={chime ? 'Chimes when stable' : 'Silent'}
            aria-pressed={chime}
            onClick={() => dispatch(chimeToggled())}
          >
            {chime ? <Bell className="size-5" aria-hidden="true" /> : <BellOff className="size-5" aria-hidden="true" />}
            <span className="sr-only">{chime ? 'Chimes when stable' : 'Silent'}</span> <kbd className="key">M</kbd>
          </button>
        )}
      </div>
      {early && (
        <ReasonDialog
          title="Capture before it is stable?"
          explain="It is marked as early in the record, with the uncertainty that it has now."
          usual={stopped ? ['I am sure of it', 'Testing'] : ['No time', 'It hardly moves', 'Known slow sensor']}
          confirm="Capture now"
          onClose={() => setEarly(false)}
          onConfirm={(reason) => {
            setEarly(false)
            void take(reason)
          }}
        />
      )}
    </>
  )
}
