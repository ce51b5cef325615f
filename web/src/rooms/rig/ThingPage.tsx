import { SUBJECTS, type Subject, type ThingView } from '@frustum/contract'
import { type FieldSpec, kindOf } from '@frustum/core'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { Changes } from '../../components/Changes.tsx'
import { For } from '../../components/For.tsx'
import { day, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'
import {
  useAddThingMutation,
  useArchiveThingMutation,
  useDeleteThingMutation,
  useEditThingMutation,
  useMoveSensorMutation,
  useMovesQuery,
  useRigQuery,
  useSiteQuery,
  useThingQuery,
  useUndoThingMutation,
} from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { FormFields } from '../bench/FormFields.tsx'
import type { FormTexts } from '../bench/formTexts.ts'
import { startTexts } from '../bench/TemperatureUnit.tsx'
import { defaultTexts, useTypedForm, withUnits } from '../bench/useTypedForm.ts'
import { GivePassword } from '../people/GivePassword.tsx'

const WORDS: Record<Subject, string> = {
  site: 'The site',
  place: 'Place',
  position: 'Position',
  device: 'Device',
  sensor: 'Sensor',
  person: 'Person',
  consumable: 'Has a date of its own',
  standard: 'Standard of your own',
  template: 'Template of your own: a copy of what a position was asked when it was kept',
}

/** One thing of the site: its fields, what was changed of it, and the way to put it away. */
export function ThingPage() {
  const { subject: asked = '', id = '' } = useParams()
  const subject = SUBJECTS.find((s) => s === asked)
  const { data, error, refetch } = useThingQuery(
    { subject: subject ?? 'place', id },
    { refetchOnMountOrArgChange: true, skip: !subject },
  )
  if (!subject || !data)
    return (
      <Fetching
        what={asked}
        error={subject ? error : { data: { message: 'There is no such page.' } }}
        onRetry={refetch}
      />
    )
  return <ThingForm key={`${subject}:${id}`} thing={data} onLookAgain={async () => (await refetch()).data ?? data} />
}

/** What a form shows of a thing: what isn't stored is at its default. */
const textsOf = (fields: readonly FieldSpec[], values: FormTexts): FormTexts => ({
  ...defaultTexts(fields),
  ...startTexts(fields, values),
})

function ThingForm({ thing, onLookAgain }: { thing: ThingView; onLookAgain: () => Promise<ThingView> }) {
  const { subject, id, title, fields, archived } = thing
  const params = { subject, id: String(id) }
  const { operator } = useAppSelector(actorOf)
  const { fahrenheit } = useAppSelector((s) => s.person)
  const { data: site } = useSiteQuery()
  const [edit, { isLoading }] = useEditThingMutation()
  const [archive] = useArchiveThingMutation()
  const [remove] = useDeleteThingMutation()
  const [undo, { isLoading: undoing }] = useUndoThingMutation()
  const navigate = useNavigate()
  const lead = useMay('lead')
  const operates = useMay('operator')
  const start = textsOf(fields, thing.values)
  const { form, draft } = useTypedForm(fields, `${subject}:${id}`, start)
  const [seen, setSeen] = useState(thing.values)
  const [mode, setMode] = useState<'wrong' | 'changed'>('wrong')
  const [on, setOn] = useState('')
  const [why, setWhy] = useState<Parameters<typeof save>[0] | null>(null)
  const [theirs, setTheirs] = useState<string[]>([])
  const texts = form.watch()
  const changed = fields.filter((f) => (texts[f.key] || '') !== (start[f.key] || '')).map((f) => f.key)
  const typed = withUnits(fields, texts, fahrenheit)
  const moving = Object.fromEntries(changed.map((key) => [key, typed[key] ?? '']))
  const { data: moves } = useMovesQuery(
    { ...params, values: moving, mode, ...(mode === 'changed' && on ? { on } : {}) },
    { skip: (subject !== 'position' && subject !== 'device') || changed.length === 0 },
  )

  async function save(values: FormTexts, reason?: string) {
    const sent = Object.fromEntries(changed.map((key) => [key, values[key] ?? '']))
    const answer = await edit({
      ...params,
      operator,
      values: sent,
      seen,
      mode,
      ...(mode === 'changed' && on ? { on } : {}),
      ...(reason ? { why: reason } : {}),
    })
    if (answer.data) {
      draft.clear()
      setTheirs([])
      form.clearErrors()
      setSeen(answer.data.values)
      form.reset(textsOf(answer.data.fields, answer.data.values))
      toast.success('Saved.')
      return
    }
    const problem = problemOf(answer.error)
    if (problem.code === 'why-needed') {
      setWhy(values)
      return
    }
    const named = Object.entries(problem.fields ?? {})
    for (const [key, message] of named) form.setError(key, { message })
    if (problem.code === 'changed-meanwhile') {
      // Saved again, it is known that theirs was seen.
      const now = (await onLookAgain()).values
      setTheirs(named.map(([key]) => key))
      setSeen({ ...seen, ...Object.fromEntries(named.map(([key]) => [key, now[key] ?? ''])) })
    }
    toast.error(problem.message, { description: [problem.detail, problem.hint].filter(Boolean).join(' ') })
  }
  const takeTheirs = () => {
    for (const key of theirs) form.setValue(key, textsOf(fields, thing.values)[key] ?? '')
    form.clearErrors()
    setTheirs([])
    draft.keep(form.getValues())
  }
  const putAway = async () => {
    const answer = await archive({ ...params, operator, archived: !archived })
    if (answer.error) {
      const { message, hint } = problemOf(answer.error)
      toast.error(message, { description: hint })
    }
  }
  const takeAway = async () => {
    const answer = await remove({ ...params, operator })
    if (answer.data) void navigate('/rig', { replace: true })
    else toast.error(problemOf(answer.error).message)
  }
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <Link to="/rig" className="inline-flex min-h-11 items-center underline underline-offset-4">
        Rig
      </Link>
      <h1 className="text-2xl">
        {title} {archived && <span className="text-base soft">put away</span>}
      </h1>
      <p className="pb-4 soft">{WORDS[subject]}</p>
      {thing.says && <p className="max-w-prose pb-4 text-pretty">{text(thing.says)}</p>}
      <Beside thing={thing} />
      <form
        onSubmit={(e) => void form.handleSubmit((values) => save(values))(e)}
        onChange={() => draft.keep(form.getValues())}
        noValidate
        aria-label={title}
      >
        <fieldset disabled={!lead}>
          <legend className="sr-only">{title}</legend>
          <FormFields fields={fields} form={form} close />
        </fieldset>
        {!lead && <p className="pb-3 soft">Only a lead changes this.</p>}
        {theirs.length > 0 && (
          <p className="flex flex-wrap items-center gap-4 border-l-4 border-warning bg-base-200 p-3">
            Somebody else changed the same meanwhile. Save yours over it, or
            <button type="button" className="slant" onClick={takeTheirs}>
              Take theirs
            </button>
          </p>
        )}
        {changed.length > 0 && subject !== 'person' && (
          <fieldset className="flex flex-wrap items-center gap-x-6 border-t border-base-300 py-3">
            <legend className="sr-only">Since when</legend>
            <Radio on={mode === 'wrong'} onChoose={() => setMode('wrong')}>
              It was entered wrong
            </Radio>
            <Radio on={mode === 'changed'} onChoose={() => setMode('changed')}>
              It changed on
            </Radio>
            {mode === 'changed' && (
              <input
                type="date"
                aria-label="The day on which it changed"
                className="min-h-11 border border-[color:var(--line)] bg-base-100 px-3"
                value={on}
                onChange={(e) => setOn(e.target.value)}
              />
            )}
          </fieldset>
        )}
        <div className="flex flex-wrap items-center gap-5" hidden={!lead}>
          <button
            type="submit"
            className="slant slant-strong min-h-14 px-9 text-xl"
            disabled={isLoading || changed.length === 0 || (mode === 'changed' && on === '')}
          >
            Save
          </button>
          {changed.length > 0 && (
            <button
              type="button"
              className="slant slant-plain"
              onClick={() => {
                draft.clear()
                form.reset(start)
              }}
            >
              Leave it as it was
            </button>
          )}
          {thing.canArchive && (
            <button type="button" className="slant slant-plain ml-auto" onClick={() => void putAway()}>
              {archived ? 'Take it out again' : 'Put it away'}
            </button>
          )}
          {thing.keptFor === null && (
            <button type="button" className="slant slant-plain" onClick={() => void takeAway()}>
              Delete it
            </button>
          )}
        </div>
        {/* Below the buttons: what comes a moment later must not move them from under a finger. */}
        {moves?.turns && changed.length > 0 && (
          <p className="max-w-prose pt-3 text-pretty">
            {mode === 'wrong'
              ? 'It was so from the beginning: what was found before is computed for it, where slope and zero are known. A check alone is set aside.'
              : 'From that day on the drift is learned anew, and a check is due. What was found before is carried over where slope and zero are known.'}{' '}
            The records stay as they are.
          </p>
        )}
        {moves?.moves.map((m) => (
          <p key={m.position} className="pt-3" role="status">
            {subject === 'device' && <strong>{m.position}: </strong>}
            {m.before === null ? (
              <>
                Then it can be computed again: its next visit is on{' '}
                <strong>{day(m.after.at, site?.timeZone ?? 'UTC')}</strong>.
              </>
            ) : m.before.at === m.after.at ? (
              <>
                The next visit stays; later ones come after{' '}
                <strong>{plural(Math.round(m.after.usualDays), 'day')}</strong> instead of{' '}
                {Math.round(m.before.usualDays)}.
              </>
            ) : (
              <>
                The next visit moves from {day(m.before.at, site?.timeZone ?? 'UTC')} to{' '}
                <strong>{day(m.after.at, site?.timeZone ?? 'UTC')}</strong>. {text(m.after.reason)}
              </>
            )}
          </p>
        ))}
      </form>
      <div className="pt-8">
        <Changes
          changes={lead ? thing.changes : thing.changes.map((c) => ({ ...c, undo: false }))}
          timeZone={site?.timeZone ?? 'UTC'}
          busy={undoing}
          onUndo={async (change) => {
            const answer = await undo({ ...params, change: String(change), operator })
            if (answer.data) {
              setSeen(answer.data.values)
              form.reset(textsOf(answer.data.fields, answer.data.values))
            } else toast.error(problemOf(answer.error).message)
          }}
        />
      </div>
      {subject === 'position' && operates && <ItsSensor id={id} />}
      {subject === 'position' && lead && <KeepTemplate id={id} />}
      {subject === 'person' && <GivePassword id={id} />}
      {why && (
        <ReasonDialog
          title="A limit is loosened"
          explain="It stays in the list of changes, for who asks later."
          usual={['The process allows it', 'It was entered too tight', 'Agreed with the lead']}
          confirm="Save"
          onClose={() => setWhy(null)}
          onConfirm={(reason) => {
            const values = why
            setWhy(null)
            void save(values, reason)
          }}
        />
      )}
    </div>
  )
}

function Radio({ on, onChoose, children }: { on: boolean; onChoose: () => void; children: string }) {
  return (
    <label className="flex min-h-11 items-center gap-2">
      <input type="radio" className="radio border-[color:var(--line)] text-primary" checked={on} onChange={onChoose} />
      {children}
    </label>
  )
}

/** Where the sensor of a position may go between its visits. */
function ItsSensor({ id }: { id: number }) {
  const { data: rig } = useRigQuery()
  const [move, { isLoading }] = useMoveSensorMutation()
  const { operator } = useAppSelector(actorOf)
  const [other, setOther] = useState('')
  const [storage, setStorage] = useState('')
  const own = rig?.positions.find((p) => p.id === id)
  if (!rig || !own?.sensor) return null
  const others = rig.positions.filter((p) => p.id !== id && p.kind === own.kind && p.sensor && !p.archived)
  const go = async (how: { swapWith?: number; storage?: string }, done: string) => {
    const answer = await move({ id: String(id), operator, ...how })
    if (answer.data) {
      toast.success(done)
      return
    }
    const { message, detail, hint } = problemOf(answer.error)
    toast.error(message, { description: [detail, hint].filter(Boolean).join(' ') })
  }
  const partner = others.find((p) => String(p.id) === other)
  return (
    <details className="mt-8 border-t border-base-300 pt-4">
      <summary className="min-h-11 cursor-pointer font-bold">Its sensor goes elsewhere</summary>
      <p className="max-w-prose pb-3 text-pretty">
        What is known of a sensor goes with it. Where it comes to it is due at once: check it there first.
      </p>
      <div className="space-y-4">
        {others.length > 0 && (
          <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
            <label className="block">
              <span className="block font-bold">Changes places with</span>
              <select
                className="min-h-12 w-72 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
                value={other}
                onChange={(e) => setOther(e.target.value)}
              >
                <option value="">Choose</option>
                {others.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.code}
                    {p.sensor?.serial ? `, ${p.sensor.serial}` : ''}
                  </option>
                ))}
              </select>
            </label>
            <button
              type="button"
              className="slant"
              disabled={!partner || isLoading}
              onClick={() =>
                partner && void go({ swapWith: partner.id }, `${own.code} and ${partner.code} have changed sensors.`)
              }
            >
              Swap the two
            </button>
          </div>
        )}
        <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
          <label className="block">
            <span className="block font-bold">To store: where, and in what</span>
            <input
              className="h-12 w-72 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
              value={storage}
              maxLength={120}
              onChange={(e) => setStorage(e.target.value)}
            />
          </label>
          <button
            type="button"
            className="slant"
            disabled={isLoading}
            onClick={() => void go({ storage }, `${own.code} has no sensor now; the old one lies in store.`)}
          >
            Take it out
          </button>
        </div>
      </div>
    </details>
  )
}

/** Keeps what is asked of a position, and how its device is set, for others like it. */
function KeepTemplate({ id }: { id: number }) {
  const [add, { isLoading }] = useAddThingMutation()
  const { operator } = useAppSelector(actorOf)
  const [name, setName] = useState('')
  const keep = async () => {
    const answer = await add({ subject: 'template', operator, values: { name, position: String(id) } })
    if (answer.data) {
      setName('')
      toast.success(`${answer.data.title} is offered where a sensor is added.`)
    } else toast.error(problemOf(answer.error).message)
  }
  return (
    <details className="mt-4 border-t border-base-300 pt-4">
      <summary className="min-h-11 cursor-pointer font-bold">Keep it as a template</summary>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3 pt-2">
        <label className="block">
          <span className="block font-bold">Name of the template</span>
          <input
            className="h-12 w-72 border border-[color:var(--line)] bg-base-100 px-3 text-lg"
            value={name}
            maxLength={80}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <button type="button" className="slant" disabled={isLoading || name.trim() === ''} onClick={() => void keep()}>
          Keep it
        </button>
      </div>
    </details>
  )
}

/** What else belongs to it, one press away. */
function Beside({ thing: { subject, id } }: { thing: ThingView }) {
  const { data: rig } = useRigQuery()
  if (!rig) return null
  const position = subject === 'position' ? rig.positions.find((p) => p.id === id) : undefined
  const reads = subject === 'device' ? rig.positions.filter((p) => p.deviceId === id) : []
  const links: [string, string][] = position
    ? ([
        [`/rig/position/${id}/line`, 'Connection'],
        [`/rig/device/${position.deviceId}`, rig.devices.find((d) => d.id === position.deviceId)?.name ?? 'Device'],
        ...(position.sensor
          ? [
              [
                `/rig/sensor/${position.sensor.id}`,
                position.sensor.serial ? `Sensor ${position.sensor.serial}` : 'Its sensor',
              ],
              [`/probes/${position.code}`, 'How it ages'],
            ]
          : []),
        [`/bench/start/${position.code}`, position.sensor ? 'To the Bench' : 'Check or commission'],
        [`/rig/position/${id}/copy`, 'Copy sensor'],
      ] as [string, string][])
    : subject === 'device'
      ? [
          ...reads.map((p): [string, string] => [`/rig/position/${p.id}`, `${p.code}, ${kindOf(p.kind).name}`]),
          [`/rig/add?device=${id}`, 'Another sensor on it'],
          ...(reads.length > 0 ? ([[`/rig/device/${id}/copy`, 'Copy device and sensors']] as [string, string][]) : []),
        ]
      : subject === 'place' && rig.positions.some((p) => p.placeId === id)
        ? [[`/rig/place/${id}/copy`, 'Copy place and sensors']]
        : []
  if (links.length === 0) return null
  return (
    <p className="flex flex-wrap gap-x-6 pb-4">
      {links.map(([to, label]) => (
        <For key={to} needs={roleFor(to)}>
          <Link to={to} className="min-h-11 content-center underline underline-offset-4">
            {label}
          </Link>
        </For>
      ))}
    </p>
  )
}

/** Who may use what a link leads to. */
const roleFor = (to: string) =>
  /\/(copy|line)$|^\/rig\/add/.test(to) ? 'lead' : to.startsWith('/bench/') ? 'operator' : 'viewer'
