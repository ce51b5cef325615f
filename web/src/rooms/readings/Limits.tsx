import { numberFrom, type SeriesView, UnreadableNumber } from '@frustum/contract'
import { type AlarmLimits, limitsAround, limitsOfDays, limitsProblem } from '@frustum/core'
import { useState } from 'react'
import { toast } from 'sonner'
import { useSetLimitsMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

const FIELDS = [
  ['lowLow', 'Lowest'],
  ['low', 'Low'],
  ['high', 'High'],
  ['highHigh', 'Highest'],
  ['hysteresis', 'Back by'],
  ['perHour', 'Change in an hour'],
  ['apart', 'From its twin'],
] as const

type Typed = Record<(typeof FIELDS)[number][0] | 'delay', string>

const typedOf = (limits: AlarmLimits): Typed => ({
  lowLow: text(limits.lowLow),
  low: text(limits.low),
  high: text(limits.high),
  highHigh: text(limits.highHigh),
  hysteresis: text(limits.hysteresis),
  perHour: text(limits.perHour),
  apart: text(limits.apart),
  delay: text(limits.delaySeconds / 60),
})
/** What was set about a change, or about its twin, stays. */
const quick = (limits: AlarmLimits) => {
  const { perHour: _, apart: __, ...rest } = typedOf(limits)
  return rest
}
const text = (value: number | undefined) => (value === undefined ? '' : String(value))
const EMPTY: Typed = {
  lowLow: '',
  low: '',
  high: '',
  highHigh: '',
  hysteresis: '0',
  perHour: '',
  apart: '',
  delay: '5',
}

/** What was typed, as limits; or what is wrong with a number. */
function limitsOf(typed: Typed): AlarmLimits | string {
  const values: Record<string, number | undefined> = {}
  try {
    for (const [key, written] of Object.entries(typed)) values[key] = numberFrom(written)
  } catch (problem) {
    if (problem instanceof UnreadableNumber) return problem.message
    throw problem
  }
  const { delay = 0, hysteresis = 0, ...rest } = values
  const there = Object.fromEntries(Object.entries(rest).filter(([, v]) => v !== undefined))
  return { ...there, hysteresis, delaySeconds: 60 * delay }
}

interface LimitsProps {
  series: SeriesView
  /** Drawn on the curve before they are kept. */
  onDraw: (limits: AlarmLimits | null) => void
  onDone: () => void
}

/** Between which values it should be: from what is now, from its ordinary days, or by hand. */
export function Limits({ series, onDraw, onDone }: LimitsProps) {
  const { operator } = useAppSelector(actorOf)
  const [set, { isLoading }] = useSetLimitsMutation()
  const [typed, setTyped] = useState<Typed>(series.limits ? typedOf(series.limits) : EMPTY)
  const [problem, setProblem] = useState<string | null>(null)
  const { position, unit, decimals, range, tolerance, ordinary, bins } = series
  const change = (next: Typed) => {
    setTyped(next)
    const limits = limitsOf(next)
    const wrong = typeof limits === 'string' ? limits : limitsProblem(limits, range)
    setProblem(wrong)
    if (!wrong) onDraw(limits as AlarmLimits)
  }
  const now = bins.at(-1)?.mean
  const ofDays = limitsOfDays(ordinary, tolerance, decimals, range)
  const save = async (limits: AlarmLimits | null) => {
    const answer = await set({ position, operator, limits: limits as never })
    if (answer.error) {
      setProblem(problemOf(answer.error).message)
      return
    }
    toast.success(limits ? 'Watched from now on.' : 'Not watched any more.')
    onDone()
  }
  const keep = () => {
    const limits = limitsOf(typed)
    if (typeof limits === 'string') setProblem(limits)
    else void save(limits)
  }
  return (
    <section aria-label="Alarm limits" className="mt-3 border-l-4 border-accent bg-base-200 p-4">
      <h2 className="font-bold">Alarm limits, {unit}</h2>
      <p className="flex flex-wrap gap-3 py-3">
        <button
          type="button"
          className="slant"
          disabled={now === undefined}
          onClick={() =>
            now !== undefined && change({ ...typed, ...quick(limitsAround(now, tolerance, decimals, range)) })
          }
        >
          From what is now
        </button>
        <button
          type="button"
          className="slant"
          disabled={!ofDays}
          onClick={() => ofDays && change({ ...typed, ...quick(ofDays) })}
        >
          From its ordinary days
        </button>
      </p>
      <div className="flex flex-wrap items-end gap-4">
        {FIELDS.filter(([key]) => key !== 'apart' || series.twins.length > 0).map(([key, label]) => (
          <Figure key={key} label={label} value={typed[key]} onType={(value) => change({ ...typed, [key]: value })} />
        ))}
        <Figure label="For, min" value={typed.delay} onType={(delay) => change({ ...typed, delay })} />
      </div>
      <p role="alert" className="min-h-6 pt-1 text-sm text-error">
        {problem}
      </p>
      <div className="flex flex-wrap gap-4">
        <button type="button" className="slant slant-strong" disabled={isLoading || problem !== null} onClick={keep}>
          Keep these limits
        </button>
        {series.limits && (
          <button type="button" className="slant slant-plain" disabled={isLoading} onClick={() => void save(null)}>
            Watch no limits
          </button>
        )}
        <button type="button" className="min-h-11 underline underline-offset-4" onClick={onDone}>
          Leave them as they were
        </button>
      </div>
    </section>
  )
}

function Figure({ label, value, onType }: { label: string; value: string; onType: (text: string) => void }) {
  return (
    <label className="block">
      <span className="block text-sm">{label}</span>
      <input
        className="h-12 w-24 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
        inputMode="decimal"
        autoComplete="off"
        value={value}
        onChange={(e) => onType(e.target.value)}
      />
    </label>
  )
}
