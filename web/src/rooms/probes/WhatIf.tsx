import { METHOD_FIELDS, type ProbeView, type RulesBody, type RulesTexts, rulesForm, rulesOf } from '@frustum/contract'
import {
  CHECK_FIRST,
  CHECK_FIRST_WORDS,
  INTERVAL_METHOD_WORDS,
  INTERVAL_METHODS,
  type IntervalMethod,
} from '@frustum/core'
import { yupResolver } from '@hookform/resolvers/yup'
import { skipToken } from '@reduxjs/toolkit/query'
import { type ComponentProps, useDeferredValue, useState } from 'react'
import { useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { asRead, day, duration, fixed, text } from '../../components/format.ts'
import { useChangeRulesMutation, useWhatIfQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'

/** The rules of a temperature sensor in the reader's degrees, and back; those of the others stay as they are. */
function degreesOf({ processUnit }: ProbeView) {
  const { unit, of, width } = asRead({ unit: processUnit, decimals: 1 })
  const isOther = processUnit === '°C' && unit !== processUnit
  const short = (value: number) => Number(value.toFixed(2))
  return {
    unit: isOther ? unit : null,
    shown: (value: number) => (isOther ? short(of(value)) : value),
    shownApart: (value: number) => (isOther ? short(width(value)) : value),
    stored: (rules: ReturnType<typeof rulesOf>): ReturnType<typeof rulesOf> =>
      isOther
        ? {
            ...rules,
            ...(rules.processValue === undefined ? {} : { processValue: (rules.processValue - of(0)) / width(1) }),
            tolerance: rules.tolerance / width(1),
          }
        : rules,
  }
}

/** Other rules for this probe: what they would make of the next date and of a year's work. Nothing is written until asked. */
export function WhatIf({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { policy } = probe.figure
  const degrees = degreesOf(probe)
  const form = useForm<RulesTexts>({
    resolver: yupResolver(rulesForm) as never,
    defaultValues: {
      method: policy.method ?? 'drift',
      checkFirst: policy.checkFirst ?? 'when-sound',
      processValue: String(degrees.shown(probe.processValue)),
      tolerance: String(degrees.shownApart(policy.tolerance)),
      reliability: String(Math.round(1000 * policy.reliability) / 10),
      floorDays: String(policy.floorDays),
      ceilingDays: String(policy.ceilingDays),
      fixedDays: String(policy.fixedDays ?? 30),
      inUseHours: String(policy.inUseHours ?? 500),
      hoursPerDay: String(policy.hoursPerDay ?? 24),
    },
    mode: 'onChange',
  })
  const texts = form.watch()
  const rules = rulesForm.isValidSync(texts) ? degrees.stored(rulesOf(texts)) : null
  const asked = useDeferredValue(rules ? JSON.stringify(rules) : null)
  const { currentData, data, error } = useWhatIfQuery(
    asked ? { position: probe.position, ...(JSON.parse(asked) as RulesBody) } : skipToken,
  )
  const [change, { isLoading }] = useChangeRulesMutation()
  const { operator } = useAppSelector(actorOf)
  // Asked for only where a limit is loosened.
  const [whyAsked, setWhyAsked] = useState('')
  const [why, setWhy] = useState('')
  const shown = currentData ?? data
  const use = form.handleSubmit(async (typed) => {
    const answer = await change({
      position: probe.position,
      operator,
      ...degrees.stored(rulesOf(typed)),
      ...(why ? { why } : {}),
    })
    if (!answer.error) {
      toast.success('Rules saved.')
      return
    }
    const { fields, message } = problemOf(answer.error)
    if (fields?.why) setWhyAsked(fields.why)
    else toast.error(message)
  })
  const own = METHOD_FIELDS[texts.method].filter((field) => field !== 'hoursPerDay' || !policy.hoursCounted)
  const field = (key: Exclude<keyof RulesTexts, 'method' | 'checkFirst'>, label: string, unit: string) => (
    <Field key={key} label={label} unit={unit} error={form.formState.errors[key]?.message} {...form.register(key)} />
  )
  return (
    <section aria-label="Try other rules" className="border-t border-base-300 pt-4">
      <h2 className="pb-3 text-base">Try other rules</h2>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        <Choice
          label="Next date"
          names={INTERVAL_METHOD_WORDS}
          options={INTERVAL_METHODS}
          {...form.register('method')}
        />
        <Choice label="A visit" names={CHECK_FIRST_WORDS} options={CHECK_FIRST} {...form.register('checkFirst')} />
        {field('processValue', 'The water is at', degrees.unit ?? probe.processUnit)}
        {field('tolerance', 'Within ±', degrees.unit ?? probe.errorScale.unit)}
        {field('reliability', 'How sure', '%')}
        {own.map((key) => {
          const [label, unit] = ownLabels(texts.method)[key]
          return field(key, label, unit)
        })}
        {field('floorDays', 'Shortest interval', 'd')}
        {field('ceilingDays', 'Longest interval', 'd')}
      </div>
      {whyAsked && (
        <Field
          label="Why is the limit loosened?"
          unit=""
          wide
          maxLength={500}
          error={why.trim().length < 3 ? whyAsked : undefined}
          value={why}
          onChange={(e) => setWhy(e.target.value)}
        />
      )}
      {error && <p className="text-error">{problemOf(error).message}</p>}
      {shown && (
        <div className="flex flex-wrap items-center justify-between gap-4 pt-2">
          <p className="max-w-xl text-pretty" role="status">
            <strong data-testid="what-if-date">{day(shown.next.at, timeZone)}</strong>,{' '}
            {shown.next.usualDays === shown.next.days ? '' : 'then '}every {Math.round(shown.next.usualDays)} days:
            about {fixed(shown.visitsPerYear, 1)} visits and {duration(shown.minutesPerYear)} of hands a year.{' '}
            {text(shown.next.reason)}
          </p>
          <For needs="lead">
            <button type="button" className="slant" disabled={!rules || isLoading} onClick={(e) => void use(e)}>
              Save rules
            </button>
          </For>
        </div>
      )}
    </section>
  )
}

const ownLabels = (method: IntervalMethod) =>
  ({
    fixedDays: [method === 'fixed' ? 'Every' : 'First step', 'd'],
    inUseHours: ['Hours in use', 'h'],
    hoursPerDay: ['In use a day', 'h'],
  }) as const

interface ChoiceProps<T extends string> extends ComponentProps<'select'> {
  label: string
  names: Record<T, string>
  options: readonly T[]
}

function Choice<T extends string>({ label, names, options, ...select }: ChoiceProps<T>) {
  return (
    <label className="w-60">
      <span className="font-bold">{label}</span>
      <select className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-2" {...select}>
        {options.map((o) => (
          <option key={o} value={o}>
            {names[o]}
          </option>
        ))}
      </select>
    </label>
  )
}
