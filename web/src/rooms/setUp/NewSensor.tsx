import { type AddPositionBody, formValues, type RigView } from '@frustum/contract'
import {
  cautionsIn,
  deviceFields,
  difference,
  type FieldSpec,
  type FormValues,
  kindOf,
  placingFields,
  proposedCode,
  type Quantity,
  quantity,
  ruleFields,
  type Scale,
  type SensorKind,
  sensorKinds,
  settingFields,
  settingOf,
  settingValues,
  shownValue,
  templateFor,
  usualIn,
  valueShown,
  WATER_KINDS,
  WATERS,
  type Water,
} from '@frustum/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { text } from '../../components/format.ts'
import { useAddPositionMutation, useThingQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { FormFields } from '../bench/FormFields.tsx'
import type { FormTexts } from '../bench/formTexts.ts'
import { startTexts } from '../bench/TemperatureUnit.tsx'
import { useTypedForm, withUnits } from '../bench/useTypedForm.ts'
import { Added } from './Added.tsx'

type Stage = 'what' | 'device' | 'rules'
const STAGES: readonly Stage[] = ['what', 'device', 'rules']
const HEADINGS: Record<Stage, string> = {
  what: 'What does it measure, and where?',
  device: 'How do you read it?',
  rules: 'Is this right?',
}

interface NewSensorProps {
  rig: RigView
  /** What is known already; `device` is the number of one that is there, empty for a new one. */
  begin: FormTexts & { stage: 'what' }
}

/** A number as it is typed, to what its display shows. */
const typed = (value: number, decimals: number) => String(Number(value.toFixed(decimals)))

const FIRST: FieldSpec[] = [
  { key: 'stage', label: '', kind: 'text', optional: true },
  { key: 'kind', label: 'kind', kind: 'text', optional: true },
  { key: 'water', label: 'water', kind: 'text', optional: true },
  { key: 'device', label: 'device', kind: 'text', optional: true },
  { key: 'placeName', label: 'Place', kind: 'text' },
]

/** A sensor in three looks: what and where, how it is read, what is asked of it. Each has its defaults. */
export function NewSensor({ rig, begin }: NewSensorProps) {
  const name = `new-sensor:${JSON.stringify([begin.kind ?? '', begin.device ?? '', begin.code ?? '', begin.template ?? ''])}`
  const [kind, setKind] = useState<SensorKind | ''>((begin.kind as SensorKind | undefined) ?? '')
  const [setting, setSetting] = useState(() => (kind ? settingOf([kind], begin as FormValues) : {}))
  const chosen = begin.device ? Number(begin.device) : null
  // A device that is there is asked only for what it has to be set to for a kind that it did not read before.
  const reads = rig.positions.filter((p) => p.deviceId === chosen).map((p) => p.kind)
  const ownDevice = !kind
    ? []
    : chosen === null
      ? deviceFields([kind])
      : reads.includes(kind)
        ? []
        : settingFields([kind])
  const rules = kind ? [...placingFields().slice(0, 1), ...ruleFields(kind, setting)] : []
  const { form, draft } = useTypedForm(
    [...FIRST, ...placingFields().slice(1), ...ownDevice, ...rules],
    name,
    startOf(begin),
  )
  const [add, { isLoading }] = useAddPositionMutation()
  const [added, setAdded] = useState<{ position: string; id: number } | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const { operator } = useAppSelector(actorOf)
  const values = form.watch()
  const stage = (STAGES.find((s) => s === values.stage) ?? 'what') as Stage
  const water = (WATER_KINDS.find((w) => w === values.water) ?? '') as Water | ''
  const { data: known } = useThingQuery({ subject: 'device', id: String(values.device) }, { skip: !values.device })
  // A draft that was kept goes on with the kind that it had.
  const keptKind = values.kind as SensorKind | ''
  if (keptKind && keptKind !== kind) {
    setKind(keptKind)
    setSetting(settingOf([keptKind], values as FormValues))
  }
  const put = (texts: FormTexts) => {
    for (const [key, value] of Object.entries(texts)) form.setValue(key, value)
    draft.keep(form.getValues())
  }
  const go = (to: Stage) => {
    setProblem(null)
    put({ stage: to })
    window.scrollTo(0, 0)
  }
  const toDevice = async () => {
    if (!kind || !water) {
      setProblem(kind ? 'Choose the water.' : 'Choose what it measures.')
      return
    }
    if (!(await form.trigger(['placeName', 'spot']))) return
    if (begin.template) {
      // All else is as it was kept.
      put({ code: proposedCode(String(values.placeName), kind, rig.codes) })
      go('rules')
      return
    }
    const template = templateFor(kind, water)
    // What was chosen before for another kind or water gives way to what is usual here.
    put({
      ...deviceDefaults,
      ...asTexts(settingValues([kind], template.device)),
      ...onlyTyped(values, ['adjustsBy', 'calibrationKey', 'whileCalibrating', 'shows']),
    })
    if (ownDevice.length === 0) toRules(template, settingOf([kind], known?.values as FormValues))
    else go('device')
  }
  const toRules = (template = templateFor(kind as SensorKind, water as Water), device = setting) => {
    if (!kind || !water) return
    setSetting(device)
    const core = valueShown(kind, template.shown, template.temperature, template.device)
    const shown = shownValue(kind, core, template.temperature, device) ?? template.shown
    const { decimals } = kindOf(kind).model.shownScale(device)
    put({
      code: proposedCode(String(values.placeName), kind, rig.codes),
      ...startTexts(ruleFields(kind, device), {
        processValue: typed(shown, decimals),
        processTemperature: String(template.temperature),
        tolerance: String(template.tolerance),
      }),
      startingDays: String(template.startingDays),
      floorDays: String(template.floorDays),
      ceilingDays: String(template.ceilingDays),
      reliability: '95',
      consequence: String(template.consequence),
      spareLeadDays: '21',
      cautions: cautionsIn(water).join('\n'),
    })
    go('rules')
  }
  const fromDevice = async () => {
    if (!kind || !(await form.trigger(ownDevice.map((f) => f.key)))) return
    toRules(templateFor(kind, water as Water), settingOf([kind], form.getValues() as FormValues))
  }
  const save = form.handleSubmit(async (texts) => {
    const { stage: _, kind: __, water: ___, template: ____, device, placeName, ...rest } = texts
    const place = rig.places.find((p) => !p.archived && p.name.toLowerCase() === String(placeName).trim().toLowerCase())
    const answer = await add({
      operator,
      kind: kind as SensorKind,
      water: water as Water,
      ...(place ? { placeId: place.id } : { placeName: String(placeName) }),
      ...(device ? { deviceId: Number(device) } : {}),
      values: rest,
      inUse: false,
    } satisfies AddPositionBody)
    if (answer.data) {
      draft.clear()
      setAdded(answer.data)
      return
    }
    const { fields = {}, message, hint } = problemOf(answer.error)
    for (const [key, why] of Object.entries(fields)) form.setError(key, { message: why })
    toast.error(message, { description: hint })
  })
  if (added) {
    const device = values.device ? Number(values.device) : null
    return <Added position={added.position} id={added.id} device={device} />
  }
  return (
    <form
      onSubmit={(e) => void save(e)}
      onChange={() => draft.keep(form.getValues())}
      noValidate
      aria-label="A new sensor"
      className="mx-auto w-full max-w-4xl px-5 py-6"
    >
      <p className="soft">
        {STAGES.indexOf(stage) + 1} of 3{kind && `, ${kindOf(kind).name}`}
        {water && `, ${WATERS[water].label.toLowerCase()}`}
      </p>
      <h1 className="pb-4 text-2xl">{begin.template && stage === 'what' ? 'Where is it?' : HEADINGS[stage]}</h1>
      {stage === 'what' && (
        <>
          {begin.template ? (
            <p className="pb-4 text-lg">
              As <strong>{String(begin.template)}</strong>: only its place is asked.
            </p>
          ) : (
            <>
              <OwnTemplates templates={rig.templates} />
              <Choice
                legend="It measures"
                choices={sensorKinds().map((k) => ({ value: k, label: kindOf(k).name }))}
                value={kind}
                onChoose={(k) => {
                  setKind(k as SensorKind)
                  put({ kind: k })
                }}
              />
              <Choice
                legend="In which water"
                choices={WATER_KINDS.map((w) => ({
                  value: w,
                  label: WATERS[w].label,
                  soft: kind !== '' && !usualIn(kind, w),
                }))}
                value={water}
                onChoose={(w) => put({ water: w })}
              />
            </>
          )}
          <div className="flex flex-wrap gap-x-8">
            <Field
              label="Place"
              unit=""
              wide
              suggestions={rig.places.filter((p) => !p.archived).map((p) => p.name)}
              hint="A room, a hall, a plant: what you walk to."
              error={form.formState.errors.placeName?.message as string | undefined}
              {...form.register('placeName')}
            />
            <Field
              label="Where exactly (optional)"
              unit=""
              wide
              hint="Tank, line, sump."
              error={form.formState.errors.spot?.message as string | undefined}
              {...form.register('spot')}
            />
          </div>
          <Next problem={problem} onPress={() => void toDevice()}>
            Next
          </Next>
        </>
      )}
      {stage === 'device' && (
        <>
          <p className="max-w-prose pb-4 text-pretty" hidden={chosen !== null}>
            You read its display by eye and type what it shows. A device on a line is added the same way, and read by
            eye until the line is set.
          </p>
          <FormFields fields={ownDevice} form={form} />
          <Next problem={problem} onPress={() => void fromDevice()} onBack={() => go('what')}>
            Next
          </Next>
        </>
      )}
      {stage === 'rules' && kind && (
        <>
          <Summary rules={rules} values={values} kind={kind} scale={kindOf(kind).model.shownScale(setting)} />
          <FormFields fields={rules.slice(0, 1)} form={form} />
          <details
            className="border-y border-base-300 py-3"
            open={rules.slice(1).some((f) => form.formState.errors[f.key]) || undefined}
          >
            <summary className="min-h-11 cursor-pointer content-center font-bold">Change what is asked of it</summary>
            <p className="max-w-prose pb-4 soft">
              These are what is usual for this water: common practice, no limit of a permit. Change what you know
              better.
            </p>
            <FormFields fields={rules.slice(1)} form={form} close />
          </details>
          <div className="flex flex-wrap items-center gap-6 pt-5">
            <button type="submit" className="slant slant-strong min-h-14 px-9 text-xl" disabled={isLoading}>
              Save it
            </button>
            <button
              type="button"
              className="slant slant-plain"
              onClick={() => go(ownDevice.length === 0 ? 'what' : 'device')}
            >
              Back
            </button>
          </div>
        </>
      )}
    </form>
  )
}

/** What was kept of positions, one press away. */
function OwnTemplates({ templates }: { templates: RigView['templates'] }) {
  const there = templates.filter((t) => !t.archived)
  if (there.length === 0) return null
  return (
    <p className="flex flex-wrap items-center gap-x-6 pb-4">
      <strong>From a template of your own:</strong>
      {there.map((t) => (
        <Link
          key={t.id}
          to={`/rig/add?template=${t.id}`}
          className="min-h-11 content-center underline underline-offset-4"
        >
          {t.name}
        </Link>
      ))}
    </p>
  )
}

const deviceDefaults: FormTexts = { shows: 'value', adjustsBy: 'key', calibrationKey: 'CAL', whileCalibrating: 'value' }

const asTexts = (values: FormValues): FormTexts =>
  Object.fromEntries(Object.entries(values).map(([key, v]) => [key, typeof v === 'number' ? String(v) : v]))

const onlyTyped = (values: FormTexts, keys: readonly string[]): FormTexts =>
  Object.fromEntries(keys.flatMap((key) => (values[key] ? [[key, values[key] as string]] : [])))

/** Temperatures carry their unit. */
const startOf = (begin: NewSensorProps['begin']): FormTexts => ({
  device: '',
  ...(begin.kind ? startTexts(ruleFields(begin.kind as SensorKind, {}), begin) : begin),
})

interface SummaryProps {
  rules: readonly FieldSpec[]
  values: FormTexts
  kind: SensorKind
  scale: Scale
}

function Summary({ rules, values, kind, scale }: SummaryProps) {
  const { fahrenheit } = useAppSelector((s) => s.person)
  const says = (key: string) => String(values[key] ?? '')
  const read = formValues(rules, withUnits(rules, values, fahrenheit))
  const said = (key: string, as: (value: number) => Quantity) =>
    typeof read[key] === 'number' ? text(as(read[key])) : '–'
  const { errorScale } = kindOf(kind).model
  return (
    <p className="max-w-prose pb-5 text-lg text-pretty">
      It normally shows <strong>{said('processValue', (v) => quantity(v, scale.unit, scale.decimals))}</strong> at{' '}
      {said('processTemperature', (v) => quantity(v, '°C', 1))} and may be wrong by at most{' '}
      <strong>±{said('tolerance', (v) => difference(v, errorScale.unit, errorScale.decimals))}</strong>. Until its own
      drift is known it is due every <strong>{says('startingDays')} days</strong>; then its drift decides: never sooner
      than {says('floorDays')} days, never later than {says('ceilingDays')}.
    </p>
  )
}

interface ChoiceProps {
  legend: string
  choices: readonly { value: string; label: string; soft?: boolean }[]
  value: string
  onChoose: (value: string) => void
}

function Choice({ legend, choices, value, onChoose }: ChoiceProps) {
  return (
    <fieldset className="pb-5">
      <legend className="float-left w-full pb-2 font-bold">{legend}</legend>
      <div className="clear-both grid grid-cols-2 gap-3 lg:grid-cols-4">
        {choices.map((c) => (
          <label
            key={c.value}
            className={`flex min-h-12 cursor-pointer items-center gap-3 border px-3 py-2 ${value === c.value ? 'border-primary bg-secondary text-secondary-content' : 'border-[color:var(--line)]'}`}
          >
            <input
              type="radio"
              name={legend}
              className="radio border-[color:var(--line)] text-primary"
              checked={value === c.value}
              onChange={() => onChoose(c.value)}
            />
            <span className={c.soft ? 'soft' : ''}>{c.label}</span>
          </label>
        ))}
      </div>
    </fieldset>
  )
}

interface NextProps {
  problem: string | null
  onPress: () => void
  onBack?: () => void
  children: React.ReactNode
}

function Next({ problem, onPress, onBack, children }: NextProps) {
  return (
    <div className="flex flex-wrap items-center gap-6 pt-2">
      <button type="button" className="slant slant-strong min-h-14 px-9 text-xl" onClick={onPress}>
        {children}
      </button>
      {onBack && (
        <button type="button" className="slant slant-plain" onClick={onBack}>
          Back
        </button>
      )}
      <p role="alert" className="text-error">
        {problem}
      </p>
    </div>
  )
}
