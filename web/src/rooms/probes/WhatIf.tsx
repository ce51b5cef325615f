import type { ProbeView, RulesBody } from '@frustum/contract'
import { CHECK_FIRST, type CheckFirst, INTERVAL_METHODS, type IntervalMethod, readTypedNumber } from '@frustum/core'
import { skipToken } from '@reduxjs/toolkit/query'
import { useDeferredValue, useState } from 'react'
import { toast } from 'sonner'
import { day, duration, fixed, text } from '../../components/format.ts'
import { problemOf, useChangeRulesMutation, useWhatIfQuery } from '../../store/api.ts'
import { Field } from '../bench/Field.tsx'

const METHODS: Record<IntervalMethod, string> = {
  drift: 'by its own drift',
  fixed: 'fixed calendar',
  staircase: 'staircase',
  'in-use': 'hours in use',
}

const CHECKS: Record<CheckFirst, string> = {
  'when-sound': 'a sound one is checked first',
  always: 'check, adjust if needed',
  never: 'calibrate each time',
}

type Texts = Record<
  | 'processValue'
  | 'tolerance'
  | 'reliability'
  | 'floorDays'
  | 'ceilingDays'
  | 'fixedDays'
  | 'inUseHours'
  | 'hoursPerDay',
  string
>

/** Other rules for this probe: what they would make of the next date and of a year's work. Nothing is written until asked. */
export function WhatIf({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { policy } = probe.figure
  const [method, setMethod] = useState<IntervalMethod>(policy.method ?? 'drift')
  const [texts, setTexts] = useState<Texts>({
    processValue: String(probe.processValue),
    tolerance: String(policy.tolerance),
    reliability: String(Math.round(1000 * policy.reliability) / 10),
    floorDays: String(policy.floorDays),
    ceilingDays: String(policy.ceilingDays),
    fixedDays: String(policy.fixedDays ?? 30),
    inUseHours: String(policy.inUseHours ?? 500),
    hoursPerDay: String(policy.hoursPerDay ?? 24),
  })
  const [checkFirst, setCheckFirst] = useState<CheckFirst>(policy.checkFirst ?? 'when-sound')
  const { rules, errors } = read({ method, checkFirst }, texts)
  const asked = useDeferredValue(rules ? JSON.stringify(rules) : null)
  const { currentData, data, error } = useWhatIfQuery(
    asked ? { position: probe.position, ...(JSON.parse(asked) as RulesBody) } : skipToken,
  )
  const [change, { isLoading }] = useChangeRulesMutation()
  const shown = currentData ?? data
  const use = async () => {
    if (!rules) return
    const answer = await change({ position: probe.position, ...rules })
    if (answer.error) toast.error(problemOf(answer.error).message)
    else toast.success('Rules saved.')
  }
  const field = (key: keyof Texts, label: string, unit: string) => (
    <Field
      label={label}
      unit={unit}
      error={errors[key]}
      value={texts[key]}
      onChange={(e) => setTexts({ ...texts, [key]: e.target.value })}
    />
  )
  return (
    <section aria-label="Try other rules" className="border-t border-base-300 pt-4">
      <h2 className="pb-3 text-base">Try other rules</h2>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        <Choice label="Next date" names={METHODS} options={INTERVAL_METHODS} value={method} onChange={setMethod} />
        <Choice label="A visit" names={CHECKS} options={CHECK_FIRST} value={checkFirst} onChange={setCheckFirst} />
        {field('processValue', 'The water is at', probe.processUnit)}
        {field('tolerance', 'Within ±', probe.errorScale.unit)}
        {field('reliability', 'How sure', '%')}
        {(method === 'fixed' || method === 'staircase') &&
          field('fixedDays', method === 'fixed' ? 'Every' : 'First step', 'd')}
        {method === 'in-use' && field('inUseHours', 'Hours in use', 'h')}
        {method === 'in-use' && !policy.hoursCounted && field('hoursPerDay', 'In use a day', 'h')}
        {field('floorDays', 'Shortest interval', 'd')}
        {field('ceilingDays', 'Longest interval', 'd')}
      </div>
      {error && <p className="text-error">{problemOf(error).message}</p>}
      {shown && (
        <div className="flex flex-wrap items-center justify-between gap-4 pt-2">
          <p className="max-w-xl text-pretty" role="status">
            <strong data-testid="what-if-date">{day(shown.next.at, timeZone)}</strong>,{' '}
            {shown.next.usualDays === shown.next.days ? '' : 'then '}every {shown.next.usualDays} days: about{' '}
            {fixed(shown.visitsPerYear, 1)} visits and {duration(shown.minutesPerYear)} of hands a year.{' '}
            {text(shown.next.reason)}
          </p>
          <button type="button" className="slant" disabled={!rules || isLoading} onClick={() => void use()}>
            Use these rules
          </button>
        </div>
      )}
    </section>
  )
}

function Choice<T extends string>(props: {
  label: string
  names: Record<T, string>
  options: readonly T[]
  value: T
  onChange: (value: T) => void
}) {
  const { label, names, options, value, onChange } = props
  return (
    <label className="w-60">
      <span className="font-bold">{label}</span>
      <select
        className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-2"
        value={value}
        onChange={(e) => onChange(e.target.value as T)}
      >
        {options.map((o) => (
          <option key={o} value={o}>
            {names[o]}
          </option>
        ))}
      </select>
    </label>
  )
}

function read(
  { method, checkFirst }: { method: IntervalMethod; checkFirst: CheckFirst },
  texts: Texts,
): { rules: RulesBody | null; errors: Partial<Record<keyof Texts, string>> } {
  const errors: Partial<Record<keyof Texts, string>> = {}
  const number = (key: keyof Texts, low: number, high: number) => {
    const typed = readTypedNumber(texts[key])
    if (typed.ok && typed.value >= low && typed.value <= high) return typed.value
    errors[key] = `From ${low} to ${high}.`
    return Number.NaN
  }
  const rules = {
    method,
    checkFirst,
    processValue: number('processValue', -2000, 1e6),
    tolerance: number('tolerance', 0.001, 1000),
    reliability: number('reliability', 50, 99.9) / 100,
    floorDays: Math.round(number('floorDays', 0, 3650)),
    ceilingDays: Math.round(number('ceilingDays', 1, 3650)),
    fixedDays: method === 'fixed' || method === 'staircase' ? Math.round(number('fixedDays', 1, 3650)) : null,
    inUseHours: method === 'in-use' ? number('inUseHours', 1, 100_000) : null,
    hoursPerDay: method === 'in-use' ? number('hoursPerDay', 0.1, 24) : null,
  }
  if (rules.floorDays > rules.ceilingDays) errors.ceilingDays = 'Not shorter than the shortest.'
  return { rules: Object.keys(errors).length > 0 ? null : (rules as RulesBody), errors }
}
