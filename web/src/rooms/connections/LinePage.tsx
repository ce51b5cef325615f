import { type ProtocolForm, type TriedView, UnreadableField } from '@frustum/contract'
import { useEffect, useRef, useState } from 'react'
import { useForm } from 'react-hook-form'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { Fetching } from '../../components/Problem.tsx'
import {
  useLineQuery,
  useProtocolsQuery,
  useRemoveLineMutation,
  useSetLineMutation,
  useTryLineMutation,
} from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import type { FormTexts } from '../bench/formTexts.ts'
import { useDraft } from '../bench/useDraft.ts'
import { DataMapping } from './DataMapping.tsx'
import { FinderPanel } from './FinderPanel.tsx'
import {
  isComplete,
  type Line,
  type LineForm,
  mappingOf,
  mappingTexts,
  messageBelow,
  NEW,
  protocolOf,
  put,
  startTexts,
  whereOf,
} from './lineForm.ts'
import { MappingFile } from './MappingFile.tsx'
import { Profiles } from './Profiles.tsx'
import { Where } from './Where.tsx'

/** What was entered is read from the device this long after the last key, ms. */
const TRY_AFTER_MS = 600
/** And again while the page is open. */
const TRY_EVERY_MS = 3000

/** Parts of the form, as the server names them. */
const PARTS = ['connectionId', 'protocol', 'settings', 'secret', 'address', 'name', 'mapping']

/** The connection of a sensor: a new one, or a change. */
export function LinePage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useLineQuery(id, { refetchOnMountOrArgChange: true })
  const forms = useProtocolsQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!data) return <Fetching what="the connection" error={error} onRetry={refetch} />
  if (!forms.data) return <Fetching what="the protocols" error={forms.error} onRetry={forms.refetch} />
  return <LinePageForm key={data.id} line={{ ...data, protocols: forms.data }} />
}

function LinePageForm({ line }: { line: Line }) {
  const draft = useDraft(`line:${line.id}`)
  const form: LineForm = useForm<FormTexts>({
    defaultValues: { ...startTexts(line), ...readDraft(draft.read().draft) } as never,
  })
  const values = form.watch()
  const protocol = protocolOf(line, values)
  const [finding, setFinding] = useState(line.mapping === null)
  const { save, saving, remove } = useSaving(line, form, draft.clear)
  const tried = useTried(line, requestOf(line, values, protocol))
  const mapping = () => mappingOf(form.getValues(), protocol, line.parameters)
  const typed = JSON.stringify({ ...values, settings: { ...(values.settings as never as object), secret: '' } })
  const first = useRef(typed)
  const { keep } = draft
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was typed is kept as it changes
  useEffect(() => {
    if (typed === first.current) return
    keep({ draft: typed })
    form.clearErrors()
  }, [typed])
  const problem = PARTS.map((part) => messageBelow(form.formState.errors, part)).find(Boolean)
  return (
    <div className="mx-auto w-full max-w-6xl px-5 py-6">
      <Link to={`/rig/position/${line.id}`} className="inline-flex min-h-11 items-center underline underline-offset-4">
        {line.code}
      </Link>
      <h1 className="text-2xl">{line.code} connection</h1>
      <p className="max-w-prose soft">
        {line.quantity}, measured by {line.device.name}. Changes apply when you save.
      </p>
      <Where line={line} form={form} protocol={protocol} />
      <section aria-labelledby="what" className="border-b border-base-300 py-5">
        <h2 id="what" className="text-lg font-bold">
          2. Data mapping
        </h2>
        <p className="flex flex-wrap items-center gap-x-6 gap-y-2 py-3">
          <button type="button" className="slant" aria-expanded={finding} onClick={() => setFinding(!finding)}>
            {finding ? 'Enter it from the manual' : 'Find by displayed value'}
          </button>
          <MappingFile
            line={line}
            family={protocol.mapping.family}
            mapping={mapping}
            onRead={(read) => put(form, 'mapping', mappingTexts(read))}
          />
        </p>
        <Profiles line={line} mapping={mapping} />
        {finding && <FinderPanel line={line} protocol={protocol} form={form} />}
        <div className="pt-4">
          <DataMapping line={line} form={form} protocol={protocol} raw={tried.answer?.raw ?? []} />
        </div>
      </section>
      <section aria-labelledby="now" className="py-5">
        <h2 id="now" className="pb-2 text-lg font-bold">
          3. Live reading
        </h2>
        <Now tried={tried} />
        {problem && (
          <p role="alert" className="text-error">
            Not saved. {problem}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-5 pt-3">
          <button
            type="button"
            className="slant slant-strong min-h-14 px-9 text-xl"
            disabled={saving}
            onClick={() => void save(protocol)}
          >
            Save connection
          </button>
          <button type="button" className="slant" disabled={!tried.askable} onClick={() => tried.again()}>
            Read now
          </button>
          {line.mapping && (
            <button type="button" className="slant slant-plain ml-auto" onClick={() => void remove()}>
              Use manual readings instead
            </button>
          )}
        </div>
      </section>
    </div>
  )
}

/** Saves what is in the form, or ends the connection of the sensor. */
function useSaving(line: Line, form: LineForm, clearDraft: () => void) {
  const [set, { isLoading: saving }] = useSetLineMutation()
  const [end] = useRemoveLineMutation()
  const { operator } = useAppSelector(actorOf)
  const navigate = useNavigate()
  const done = (message: string) => {
    clearDraft()
    toast.success(message)
    void navigate(`/rig/position/${line.id}`)
  }
  const save = async (protocol: ProtocolForm) => {
    try {
      const values = form.getValues()
      const body = { ...whereOf(values, protocol), mapping: mappingOf(values, protocol, line.parameters) }
      const answer = await set({ id: String(line.id), operator, ...body })
      if (answer.data) return done(`${line.code} is connected.`)
      const { message, hint, fields } = problemOf(answer.error)
      for (const [path, problem] of Object.entries(fields ?? {})) form.setError(path, { message: problem })
      if (!fields) toast.error(message, { description: hint })
    } catch (problem) {
      if (!(problem instanceof UnreadableField)) throw problem
      form.setError(problem.path, { message: problem.message })
    }
  }
  const remove = async () => {
    const answer = await end({ id: String(line.id), operator })
    if (answer.error) toast.error(problemOf(answer.error).message)
    else done(`${line.code} now takes manual readings.`)
  }
  return { save, saving, remove }
}

/** What was typed before; nothing where it isn't a form any more. */
function readDraft(typed: unknown): object {
  try {
    const draft = JSON.parse(String(typed)) as { mapping?: unknown } | null
    return draft && typeof draft.mapping === 'object' ? draft : {}
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
function useTried(line: Line, request: object | null): Tried {
  const { operator } = useAppSelector(actorOf)
  const [tryLine, { isLoading: asking }] = useTryLineMutation()
  const [answer, setAnswer] = useState<TriedView | null>(null)
  const [turn, setTurn] = useState(0)
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

/** What to ask; null while too little is entered, or something isn't a number. */
function requestOf(line: Line, values: FormTexts, protocol: ProtocolForm): object | null {
  try {
    if (values.connection === NEW && !isComplete(protocol.settings, values)) return null
    if (!isComplete(protocol.address, values)) return null
    const mapping = mappingOf(values, protocol, line.parameters)
    if (!mapping.value && !mapping.signal) return null
    return { ...whereOf(values, protocol), mapping }
  } catch (problem) {
    if (problem instanceof UnreadableField) return null
    throw problem
  }
}

function Now({ tried: { answer, askable, asking } }: { tried: Tried }) {
  if (!askable)
    return <p className="soft">Enter the device and where its value or signal is. The reading appears here.</p>
  if (!answer) return <p className="soft">{asking ? 'Reading ...' : 'Not read yet.'}</p>
  if (answer.why) {
    return (
      <p role="status" className="border-l-4 border-warning bg-base-200 p-3">
        {answer.why}
      </p>
    )
  }
  return (
    <p role="status" className="border-l-4 border-success bg-base-200 p-3">
      Connected. All mapped values can be read.
    </p>
  )
}
