import { type TypedReadingFields, typedReadingFields, type VisitLive, type VisitView } from '@frustum/contract'
import type { AssumedTemperature, Step } from '@frustum/core'
import { yupResolver } from '@hookform/resolvers/yup'
import { useEffect, useId } from 'react'
import { type UseFormRegisterReturn, useForm } from 'react-hook-form'
import { celsius, fixed, text } from '../../components/format.ts'
import { useInstrumentsQuery } from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { temperatureReadFrom } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import { Field } from './Field.tsx'
import { FormFields } from './FormFields.tsx'
import type { FormTexts } from './formTexts.ts'
import { inUnit, TemperatureUnit } from './TemperatureUnit.tsx'
import { useDraft } from './useDraft.ts'
import { useTypedForm } from './useTypedForm.ts'

interface TypedReadingsProps {
  visit: VisitView
  step: Step
  /** Null until something was read, and while there is no connection. */
  live: VisitLive | null
  /** Resolves to the problem's fields, or null when it was kept. */
  onType: (fields: TypedReadingFields & { still: boolean }) => Promise<Record<string, string> | null>
  /** The device's own key in the same cup, entered with the reading; null where none follows. */
  joined: Step | null
  onJoined: (step: string, values: FormTexts) => Promise<Record<string, string> | null>
}

const SOURCES: Record<NonNullable<TypedReadingFields['temperatureFrom']>, string> = {
  device: 'its display',
  thermometer: 'a thermometer',
  sensor: 'another sensor',
  fixed: 'fixed in the device',
}

/** How long an unsent reading is kept: after that the display shows something else, ms. */
const READING_KEPT_FOR = 15 * 60_000

/** For a device that is read by eye: what it shows, once or twice, and where the temperature comes from. */
export function TypedReadings({ visit, step, live, onType, joined, onJoined }: TypedReadingsProps) {
  const { label, unit } = visit.typing
  const assumed = visit.assumedTemperature
  const { fahrenheit, readFrom } = useAppSelector((s) => s.person)
  // A display whose temperature is set by hand says nothing of the standard.
  const isSet = visit.fixedTemperature !== null
  const usualFrom = isSet && readFrom.from === 'device' ? 'thermometer' : readFrom.from
  const dispatch = useAppDispatch()
  const readingDraft = useDraft(`${visit.id}:${step.key}:reading`, READING_KEPT_FOR)
  const form = useForm<TypedReadingFields>({
    resolver: yupResolver(typedReadingFields(visit.typing, assumed)),
    defaultValues: {
      value: '',
      shown: '',
      temperature: '',
      temperatureFrom: usualFrom,
      temperatureName: readFrom.name,
      ...readingDraft.read(),
    },
    mode: 'onSubmit',
    reValidateMode: 'onChange',
  })
  const { form: keyForm, draft: keyDraft } = useTypedForm(joined?.fields ?? [], `${visit.id}:${joined?.key ?? ''}`)
  const { errors, isSubmitting } = form.formState
  const { setFocus } = form
  // Who stands there with a cup types at once.
  // biome-ignore lint/correctness/useExhaustiveDependencies: at each step anew
  useEffect(() => setFocus('value'), [setFocus, step.key])
  const from = form.watch('temperatureFrom') ?? usualFrom
  const { data: known = [] } = useInstrumentsQuery(undefined, { skip: from !== 'thermometer' })
  const thermometers = from === 'thermometer' ? known.filter((i) => i.kind === 'thermometer') : []
  const send = (still: boolean, withKey = false) =>
    form.handleSubmit(async (fields) => {
      if (withKey && !(await keyForm.trigger())) return
      dispatch(temperatureReadFrom({ from, name: fields.temperatureName ?? '' }))
      const problems = await onType({ ...fields, temperature: inUnit(fields.temperature, fahrenheit), still })
      if (problems) {
        for (const [field, message] of Object.entries(problems)) {
          if (field === 'value' || field === 'shown' || field === 'temperature') form.setError(field, { message })
        }
        return
      }
      readingDraft.clear()
      if (withKey && joined) {
        const wrong = await onJoined(joined.key, keyForm.getValues())
        for (const [field, message] of Object.entries(wrong ?? {})) keyForm.setError(field, { message })
        if (!wrong) keyDraft.clear()
        return
      }
      // The temperature hardly changes between two looks; the value is the one to read anew.
      form.setValue('value', '')
      form.setValue('shown', '')
      form.setFocus('value')
    })
  const named = from === 'thermometer' || from === 'sensor'
  return (
    <form onSubmit={(e) => void send(step.freezes === true)(e)} noValidate className="space-y-2">
      <div
        onChange={() => readingDraft.keep(form.getValues())}
        className="flex flex-wrap items-start gap-x-6 gap-y-1 max-sm:grid max-sm:grid-cols-2 max-sm:gap-x-3 max-sm:[&>div]:w-full"
      >
        <Field label={`${label} shown`} unit={unit} error={errors.value?.message} {...form.register('value')} />
        {visit.typing.beside && (
          <Field
            label={`${visit.typing.beside.label} shown`}
            unit={visit.typing.beside.unit}
            error={errors.shown?.message}
            {...form.register('shown')}
          />
        )}
        <div className="flex items-start gap-1 max-sm:[&>div]:w-full">
          <Field
            label="Temperature"
            unit=""
            placeholder={assumed ? fixed(shownIn(assumed.value, fahrenheit), 1) : ''}
            hint={assumed ? ASSUMED[assumed.from] : undefined}
            error={errors.temperature?.message}
            {...form.register('temperature')}
          />
          <TemperatureUnit />
        </div>
        <Choice label="Read from" choices={SOURCES} {...form.register('temperatureFrom')} />
        <datalist id="thermometers">
          {thermometers.map((i) => (
            <option key={i.id} value={i.name} />
          ))}
        </datalist>
        {named && (
          <Field
            label="Which one?"
            unit=""
            inputMode="text"
            list={thermometers.length > 0 ? 'thermometers' : undefined}
            error={errors.temperatureName?.message}
            {...form.register('temperatureName')}
          />
        )}
      </div>
      {visit.fixedTemperature !== null && (
        <p className="max-w-prose text-sm text-pretty soft">
          The device computes with {celsius(visit.fixedTemperature)}, set by hand. Read the temperature here from a
          thermometer in the liquid.
        </p>
      )}
      {joined && (
        <section
          aria-label={joined.short}
          className="border-t border-base-300 pt-3"
          onChange={() => keyDraft.keep(keyForm.getValues())}
        >
          <h3 className="text-lg font-bold">{joined.short}</h3>
          <p className="max-w-prose pb-2 soft">{text(joined.hint)}</p>
          <FormFields fields={joined.fields ?? []} form={keyForm} />
        </section>
      )}
      {/* On a phone what keeps it stays within reach of the thumb. */}
      <div className="flex flex-wrap items-center gap-4 max-sm:sticky max-sm:bottom-14 max-sm:z-10 max-sm:flex-nowrap max-sm:gap-2 max-sm:bg-base-100 max-sm:py-2 max-sm:text-[15px] max-sm:[&>button]:px-3">
        {step.freezes ? (
          <button type="submit" className="slant slant-strong" disabled={isSubmitting}>
            Keep this reading
          </button>
        ) : (
          <>
            <button
              type="button"
              className="slant slant-strong"
              disabled={isSubmitting}
              onClick={() => void send(true, joined !== null)()}
            >
              {joined ? 'Save reading and key' : 'It stood still: keep it'}
            </button>
            <button type="submit" className="slant" disabled={isSubmitting}>
              Note it, look again
            </button>
          </>
        )}
      </div>
      {!step.freezes && (
        <p className="min-h-6 soft">
          <NextReading live={live} />
        </p>
      )}
    </form>
  )
}

const ASSUMED: Record<AssumedTemperature['from'], string> = {
  earlier: 'Left empty: same as before.',
  usual: 'Left empty: the usual temperature here.',
}

const shownIn = (degrees: number, fahrenheit: boolean) => (fahrenheit ? degrees * 1.8 + 32 : degrees)

function Choice({
  label,
  choices,
  ...select
}: { label: string; choices: Record<string, string> } & UseFormRegisterReturn) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="block font-bold">
        {label}
      </label>
      <select id={id} className="h-12 border border-[color:var(--line)] bg-base-100 px-3" {...select}>
        {Object.entries(choices).map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </div>
  )
}

/** What to do next with the display, by what was typed so far. */
function NextReading({ live }: { live: VisitLive | null }) {
  const now = useNow(1000)
  const opinion = live?.opinion
  if (!opinion) {
    return 'Type it when the display has stood still for 15 s by your own watch; or note it now and look again.'
  }
  const { reason, nextReadingIn } = opinion
  if (reason === 'typed-agree') return 'Twice the same: capture it.'
  if (reason === 'own-watch') return 'It stood still by your own watch.'
  const wait = Math.max(0, Math.round(nextReadingIn - (now - live.at) / 1000))
  const when = wait > 0 ? `in ${wait} s` : 'now'
  const noted = `${live.value === null ? '' : fixed(live.value, live.decimals)} at ${celsius(live.temperature)} is noted.`
  return reason === 'typed-apart'
    ? `${noted} It still moves: look again ${when}.`
    : `${noted} Look again ${when}: the same number is enough, one last digit beside it after 30 s.`
}
