import {
  decimalMark,
  type RecipientView,
  recipientBody,
  TELLING_WAYS,
  type TellingView,
  type TellingWay,
} from '@frustum/contract'
import { type AlarmSeverity, readTypedNumber } from '@frustum/core'
import { useState } from 'react'
import { toast } from 'sonner'
import { ValidationError } from 'yup'
import { Choice } from '../../components/Choice.tsx'
import { useAddRecipientMutation, useChangeRecipientMutation, useTryTellingMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { SEVERITY_CHOICES, USUAL_WISHES } from './wishes.ts'

const WAY_NAMES: Record<TellingWay, string> = { mail: 'e-mail', webhook: 'webhook', mqtt: 'MQTT topic' }
const ADDRESSES: Record<TellingWay, { label: string; hint: string }> = {
  mail: { label: 'E-mail address', hint: 'As name@host.' },
  webhook: { label: 'Address', hint: 'It is sent JSON by POST.' },
  mqtt: { label: 'Topic', hint: 'It is sent JSON, once it is raised.' },
}
const NEVER = ''
const HOURS: (readonly [string, string])[] = Array.from({ length: 24 }, (_, h) => [
  String(h),
  `${String(h).padStart(2, '0')}:00`,
])

interface RecipientFormProps {
  telling: TellingView
  /** Null for somebody new. */
  of: RecipientView | null
  onDone: () => void
}

function draftOf(of: RecipientView | null, telling: TellingView) {
  const { alarms, from, to, afterMinutes, repeatMinutes, digestHour, reminders } = of?.wishes ?? USUAL_WISHES
  return {
    name: of?.name ?? '',
    by: of?.by ?? ('mail' as TellingWay),
    address: of?.address ?? '',
    connection: String(of?.connection ?? telling.brokers[0]?.id ?? ''),
    secret: '',
    alarms: alarms ?? NEVER,
    from: String(from),
    to: String(to),
    afterMinutes: String(afterMinutes),
    repeatMinutes: String(repeatMinutes),
    digestHour: digestHour === null ? NEVER : String(digestHour),
    reminders,
  }
}

/** Who is told, how, of what, and when. */
export function RecipientForm({ telling, of, onDone }: RecipientFormProps) {
  const { operator } = useAppSelector(actorOf)
  const [draft, setDraft] = useState(() => draftOf(of, telling))
  const [errors, setErrors] = useState<Readonly<Record<string, string>>>({})
  const [problem, setProblem] = useState<string | null>(null)
  const [add, adding] = useAddRecipientMutation()
  const [change, changing] = useChangeRecipientMutation()
  const [attempt, trying] = useTryTellingMutation()
  const put = (some: Partial<typeof draft>) => setDraft({ ...draft, ...some })
  const whereTo = () => ({
    operator,
    name: draft.name,
    by: draft.by,
    address: draft.address,
    connection: draft.by === 'mqtt' && draft.connection !== '' ? Number(draft.connection) : null,
    ...(draft.secret === '' ? {} : { secret: draft.secret }),
  })
  const body = () => ({
    ...whereTo(),
    wishes: {
      alarms: draft.alarms === NEVER ? null : (draft.alarms as AlarmSeverity),
      from: Number(draft.from),
      to: Number(draft.to),
      afterMinutes: numberOf(draft.afterMinutes),
      repeatMinutes: numberOf(draft.repeatMinutes),
      digestHour: draft.digestHour === NEVER ? null : Number(draft.digestHour),
      reminders: draft.reminders,
    },
  })
  const refused = (error: unknown) => {
    const { fields, message, detail, hint } = problemOf(error as never)
    setErrors(fields ?? {})
    setProblem(fields ? null : [message, detail, hint].filter(Boolean).join(' '))
  }
  const save = async () => {
    const wrong = problemsOf(body())
    setErrors(wrong)
    setProblem(null)
    if (Object.keys(wrong).length > 0) return
    const answer = of ? await change({ id: String(of.id), ...body() }) : await add(body())
    if (answer.error) return refused(answer.error)
    toast.success(`${draft.name} is told from now on.`)
    onDone()
  }
  const tryIt = async () => {
    setErrors({})
    setProblem(null)
    const answer = await attempt({ ...whereTo(), id: of?.id ?? null })
    if (answer.error) return refused(answer.error)
    toast.success(`Sent to ${draft.address}.`)
  }
  const text = (key: 'name' | 'address' | 'afterMinutes' | 'repeatMinutes', label: string, more: object = {}) => (
    <Field
      label={label}
      unit=""
      error={errors[key] ?? errors[`wishes.${key}`]}
      value={draft[key]}
      onChange={(e) => put({ [key]: e.target.value })}
      {...more}
    />
  )
  const busy = adding.isLoading || changing.isLoading || trying.isLoading
  return (
    <section
      aria-label={of ? `Change ${of.name}` : 'Somebody else'}
      className="my-3 border-l-4 border-accent bg-base-200 p-4"
    >
      <div className="flex flex-wrap gap-x-6">
        {text('name', 'Name', { inputMode: 'text', hint: 'A person, or what they do.' })}
        <Choice
          label="By"
          value={draft.by}
          choices={TELLING_WAYS.map((way) => [way, WAY_NAMES[way]])}
          onChoose={(by) => put({ by: by as TellingWay })}
        />
        {draft.by === 'mqtt' && (
          <Choice
            label="Through"
            value={draft.connection}
            choices={telling.brokers.map(({ id, name }) => [String(id), name])}
            onChoose={(connection) => put({ connection })}
          />
        )}
        {text('address', ADDRESSES[draft.by].label, { wide: true, hint: ADDRESSES[draft.by].hint })}
        {draft.by === 'webhook' && (
          <Field
            label="Key that it is signed with (optional)"
            unit=""
            wide
            type="password"
            autoComplete="off"
            error={errors.secret}
            hint={
              of?.hasSecret ? 'One is kept; empty leaves it.' : 'HMAC-SHA-256 over the time, a full stop, and the body.'
            }
            value={draft.secret}
            onChange={(e) => put({ secret: e.target.value })}
          />
        )}
      </div>
      {draft.by === 'mqtt' && (errors.connection || telling.brokers.length === 0) && (
        <p role="alert" className="pb-3 text-sm text-error">
          {telling.brokers.length === 0 ? 'Connect a broker first, under Rig.' : errors.connection}
        </p>
      )}
      <div className="flex flex-wrap gap-x-6">
        <Choice
          label="Alarms"
          value={draft.alarms}
          choices={SEVERITY_CHOICES}
          onChoose={(alarms) => put({ alarms: alarms as typeof draft.alarms })}
        />
        <Choice label="From" value={draft.from} choices={HOURS} onChoose={(from) => put({ from })} />
        <Choice label="To" value={draft.to} choices={HOURS} onChoose={(to) => put({ to })} />
        {text('afterMinutes', 'If nobody saw it for', { unit: 'min', hint: '0: at once.' })}
        {text('repeatMinutes', 'Again every', { unit: 'min', hint: 'Until seen; 0: once.' })}
      </div>
      <div className="flex flex-wrap items-center gap-x-6">
        <Choice
          label="What is due, at"
          value={draft.digestHour}
          choices={[[NEVER, 'never'], ...HOURS]}
          onChoose={(digestHour) => put({ digestHour })}
        />
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={draft.reminders}
            onChange={(e) => put({ reminders: e.target.checked })}
          />
          When something has to begin, or is over
        </label>
      </div>
      <div className="flex flex-wrap items-center gap-4 pt-3">
        <button type="button" className="slant slant-strong" disabled={busy} onClick={() => void save()}>
          {of ? 'Save' : 'Tell from now on'}
        </button>
        <button type="button" className="slant slant-plain" disabled={busy} onClick={() => void tryIt()}>
          {trying.isLoading ? 'Sending ...' : 'Send a try'}
        </button>
        <button type="button" className="min-h-11 underline underline-offset-4" onClick={onDone}>
          Leave
        </button>
      </div>
      <p role="alert" className="min-h-6 pt-2 text-sm text-error">
        {problem}
      </p>
    </section>
  )
}

/** Not a number where the field is blank or can't be read: the schema says so next to it. */
function numberOf(typed: string): number {
  const read = readTypedNumber(typed, decimalMark())
  return read.ok ? read.value : Number.NaN
}

function problemsOf(body: object): Record<string, string> {
  try {
    recipientBody.validateSync(body, { abortEarly: false })
    return {}
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    return Object.fromEntries(error.inner.map(({ path = '', message }) => [path, message]))
  }
}
