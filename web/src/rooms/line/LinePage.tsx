import { isModbus, type LineView, type Protocol, type TriedView } from '@frustum/contract'
import { useEffect, useRef, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { Fetching } from '../../components/Problem.tsx'
import {
  problemOf,
  useLineQuery,
  useRemoveLineMutation,
  useSetLineMutation,
  useTryLineMutation,
} from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { useDraft } from '../bench/useDraft.ts'
import { Channels } from './Channels.tsx'
import { Thermometer } from './channelParts.tsx'
import { draftOf, type LineDraft, mappingDraft, mappingOf, NotANumber, protocolOf, whereOf } from './draft.ts'
import { Fields } from './Fields.tsx'
import { FinderPanel } from './FinderPanel.tsx'
import { MappingFile } from './MappingFile.tsx'
import { Profiles } from './Profiles.tsx'
import { Where } from './Where.tsx'
import { Writing } from './Writing.tsx'

/** What was typed is read from the device so soon after the last key, ms. */
const TRY_AFTER_MS = 600
/** And again while the page is open. */
const TRY_EVERY_MS = 3000

/** What a position is read by: from nothing, or changed. */
export function LinePage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useLineQuery(id, { refetchOnMountOrArgChange: true })
  if (!data) return <Fetching what="the line" error={error} onRetry={refetch} />
  return <LineForm key={data.id} line={data} />
}

function LineForm({ line }: { line: LineView }) {
  const kept = useDraft(`line:${line.id}`)
  const [draft, setDraft] = useState<LineDraft>(() => {
    const { draft: typed } = kept.read()
    return typeof typed === 'string' ? { ...draftOf(line), ...readDraft(typed) } : draftOf(line)
  })
  const protocol = protocolOf(line, draft)
  const [errors, setErrors] = useState<Record<string, string>>({})
  const [finding, setFinding] = useState(line.mapping === null)
  const [set, { isLoading: saving }] = useSetLineMutation()
  const [remove] = useRemoveLineMutation()
  const { operator } = useAppSelector(actorOf)
  const navigate = useNavigate()
  const change = (part: Partial<LineDraft>) => {
    const next = { ...draft, ...part }
    setDraft(next)
    setErrors({})
    kept.keep({ draft: JSON.stringify({ ...next, secret: '' }) })
  }
  const tried = useTried(line, draft, { protocol, operator })
  const save = async () => {
    try {
      const answer = await set({
        id: String(line.id),
        operator,
        ...whereOf(draft, protocol),
        mapping: mappingOf(draft, protocol) as never,
      })
      if (answer.data) {
        kept.clear()
        toast.success(`${line.code} is read over its line from now on.`)
        void navigate(`/rig/position/${line.id}`)
        return
      }
      const { message, hint, fields } = problemOf(answer.error)
      setErrors(fields ?? {})
      if (!fields) toast.error(message, { description: hint })
    } catch (problem) {
      if (!(problem instanceof NotANumber)) throw problem
      setErrors({ [problem.field]: problem.message })
    }
  }
  const takeAway = async () => {
    const answer = await remove({ id: String(line.id), operator })
    if (answer.error) {
      toast.error(problemOf(answer.error).message)
      return
    }
    kept.clear()
    toast.success(`${line.code} is read by eye from now on.`)
    void navigate(`/rig/position/${line.id}`)
  }
  const others = Object.entries(errors).filter(([key]) => !SHOWN_AT_FIELDS.includes(key))
  return (
    <div className="mx-auto w-full max-w-6xl px-5 py-6">
      <Link to={`/rig/position/${line.id}`} className="inline-flex min-h-11 items-center underline underline-offset-4">
        {line.code}
      </Link>
      <h1 className="text-2xl">The line of {line.code}</h1>
      <p className="max-w-prose soft">
        {line.quantity}, read by {line.device.name}. What is set here holds from the moment it is saved.
      </p>
      <Where line={line} draft={draft} errors={errors} onChange={change} />
      <section aria-labelledby="what" className="border-b border-base-300 py-5">
        <h2 id="what" className="text-lg font-bold">
          2. What stands where
        </h2>
        <p className="flex flex-wrap items-center gap-x-6 gap-y-2 py-3">
          <button type="button" className="slant" aria-expanded={finding} onClick={() => setFinding(!finding)}>
            {finding ? 'By the manual instead' : 'Find it by the display'}
          </button>
          <MappingFile
            line={line}
            protocol={protocol}
            mapping={() => mappingOf(draft, protocol)}
            onRead={(mapping) => change(mappingDraft(mapping))}
          />
        </p>
        <Profiles line={line} mapping={() => mappingOf(draft, protocol)} />
        {finding && (
          <FinderPanel
            line={line}
            protocol={protocol}
            draft={draft}
            onErrors={setErrors}
            onUnit={(unit) => change({ unit: String(unit) })}
            onTime={(timeField) => change({ timeField })}
            onTake={(name, channel, format) => {
              if (format !== undefined) {
                change({
                  format,
                  channels: { ...draft.channels, [name]: channel },
                  ...(name === 'temperature' ? { elsewhere: '' } : {}),
                })
                return
              }
              // The finder counts as the wire does.
              const address = String(Number(channel.address) + Number(draft.countsFrom))
              change({
                channels: { ...draft.channels, [name]: { ...channel, address } },
                ...(name === 'temperature' ? { elsewhere: '' } : {}),
              })
            }}
          />
        )}
        <div className="pt-4">
          {isModbus(protocol) ? (
            <Channels line={line} draft={draft} errors={errors} raw={tried.answer?.raw ?? []} onChange={change} />
          ) : (
            <Fields
              line={line}
              protocol={protocol}
              draft={draft}
              errors={errors}
              raw={tried.answer?.raw ?? []}
              onChange={change}
            />
          )}
          <Thermometer line={line} draft={draft} onChange={change} />
        </div>
        {isModbus(protocol) && <Writing line={line} draft={draft} onChange={change} />}
      </section>
      <section aria-labelledby="now" className="py-5">
        <h2 id="now" className="pb-2 text-lg font-bold">
          3. What it reads now
        </h2>
        <Now tried={tried} />
        {others.map(([key, message]) => (
          <p key={key} role="alert" className="text-error">
            {message}
          </p>
        ))}
        <div className="flex flex-wrap items-center gap-5 pt-3">
          <button
            type="button"
            className="slant slant-strong min-h-14 px-9 text-xl"
            disabled={saving}
            onClick={() => void save()}
          >
            Save the line
          </button>
          <button type="button" className="slant" disabled={!tried.askable} onClick={() => tried.again()}>
            Read once
          </button>
          {line.mapping && (
            <button type="button" className="slant slant-plain ml-auto" onClick={() => void takeAway()}>
              Read it by eye again
            </button>
          )}
        </div>
      </section>
    </div>
  )
}

const SHOWN_AT_FIELDS = [
  'name',
  'host',
  'port',
  'path',
  'unit',
  'value',
  'signal',
  'temperature',
  'glass',
  'junction',
  'connectionId',
  'protocol',
  'url',
  'user',
  'secret',
  'authority',
  'address.topic',
  'address.path',
  'settings.url',
  'settings.host',
  'settings.authority',
]

/** What was typed before; nothing where it is no form any more. */
function readDraft(typed: string): Partial<LineDraft> {
  try {
    const draft = JSON.parse(typed) as Partial<LineDraft> | null
    return draft && typeof draft.channels === 'object' ? draft : {}
  } catch {
    return {}
  }
}

interface Tried {
  answer: TriedView | null
  /** Whether there is enough to ask the device. */
  askable: boolean
  asking: boolean
  again: () => void
}

/** Reads the device as the form has it, a moment after each change and now and then. */
function useTried(
  line: LineView,
  draft: LineDraft,
  { protocol, operator }: { protocol: Protocol; operator: string },
): Tried {
  const [tryLine, { isLoading: asking }] = useTryLineMutation()
  const [answer, setAnswer] = useState<TriedView | null>(null)
  const [turn, setTurn] = useState(0)
  const request = requestOf(draft, protocol)
  const body = request && JSON.stringify(request)
  const newest = useRef(body)
  newest.current = body
  // biome-ignore lint/correctness/useExhaustiveDependencies: a further turn asks the same again
  useEffect(() => {
    if (!body) {
      setAnswer(null)
      return
    }
    let timer = setTimeout(async function ask() {
      const got = await tryLine({ id: String(line.id), operator, ...JSON.parse(body) })
      if (newest.current !== body) return
      if (got.data) setAnswer(got.data)
      else setAnswer({ raw: [], reading: null, why: problemOf(got.error).message })
      timer = setTimeout(ask, TRY_EVERY_MS)
    }, TRY_AFTER_MS)
    return () => clearTimeout(timer)
  }, [body, turn, line.id, operator, tryLine])
  return { answer, askable: body !== null, asking, again: () => setTurn(turn + 1) }
}

/** What to ask; null while too little stands there, or what stands there is no number. */
function requestOf(draft: LineDraft, protocol: Protocol) {
  try {
    const where = whereOf(draft, protocol)
    const mapping = mappingOf(draft, protocol)
    const { settings } = where
    const reached = 'connectionId' in where || protocol === 'push' || settings.host || settings.path || settings.url
    const there = !isModbus(protocol) || where.address.unit !== undefined
    return reached && there && (mapping.value || mapping.signal) ? { ...where, mapping } : null
  } catch (problem) {
    if (problem instanceof NotANumber) return null
    throw problem
  }
}

function Now({ tried: { answer, askable, asking } }: { tried: Tried }) {
  if (!askable)
    return <p className="soft">Say where it is, and where its value or its signal stands: then it is read here.</p>
  if (!answer) return <p className="soft">{asking ? 'Asking it ...' : 'Not asked yet.'}</p>
  if (answer.why) {
    return (
      <p role="status" className="border-l-4 border-warning bg-base-200 p-3">
        {answer.why}
      </p>
    )
  }
  return (
    <p role="status" className="border-l-4 border-success bg-base-200 p-3">
      It answers, and all that is mapped can be read.
    </p>
  )
}
