import type { BodyOf, ENDPOINTS, WalkDisplayView, WalkOutcome, WalkView } from '@frustum/contract'
import { decimalMark } from '@frustum/contract/decimalMark'
import { type DisplaySlip, findDisplaySlip, readTypedNumber, typedNumberProblem } from '@frustum/core'
import { type KeyboardEvent, useState } from 'react'
import { Link, useParams } from 'react-router'
import { ago, fixed, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useKeepWalkMutation, useWalkQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { useDraft } from '../bench/useDraft.ts'
import { Beside, type BesideDraft, besideOf, fitsBeside, NOTHING_BESIDE } from './Beside.tsx'
import { When } from './When.tsx'

/** The displays of a place that are read by eye, a field each. */
export function WalkPage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useWalkQuery(id, { refetchOnMountOrArgChange: true })
  const [kept, setKept] = useState<{ outcome: WalkOutcome; of: readonly string[] } | null>(null)
  if (!data) return <Fetching what="the displays" error={error} onRetry={refetch} />
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-5 sm:px-5">
      <h1 className="text-2xl">Walk round, {data.name}</h1>
      {kept ? (
        <Kept {...kept} onAgain={() => setKept(null)} />
      ) : (
        <Sheet key={data.id} walk={data} onKept={(outcome, of) => setKept({ outcome, of })} />
      )}
    </div>
  )
}

const MOVE_KEYS = ['Enter', 'ArrowDown']

/** Enter goes on to the next display, as a thumb on a phone expects. */
function toNext(event: KeyboardEvent<HTMLInputElement>): void {
  if (!MOVE_KEYS.includes(event.key)) return
  event.preventDefault()
  const fields = [...document.querySelectorAll<HTMLElement>('[data-walk]')]
  fields[fields.indexOf(event.currentTarget) + 1]?.focus()
}

function Sheet({ walk, onKept }: { walk: WalkView; onKept: (outcome: WalkOutcome, of: string[]) => void }) {
  const { operator } = useAppSelector(actorOf)
  const [keep, { isLoading }] = useKeepWalkMutation()
  const draft = useDraft(`walk-${walk.id}`)
  const [typed, setTyped] = useState<Record<string, string>>(() => draft.read() as Record<string, string>)
  const [beside, setBeside] = useState<BesideDraft>(NOTHING_BESIDE)
  const [at, setAt] = useState<number | null>(null)
  const [problems, setProblems] = useState<Readonly<Record<string, string>>>({})
  const [problem, setProblem] = useState<string | null>(null)
  const put = (key: string, value: string) => {
    const next = { ...typed, [key]: value }
    setTyped(next)
    draft.keep(next)
  }
  const filled = walk.displays.filter((d) => (typed[d.position] ?? '').trim() !== '')
  const save = async () => {
    const { readings, wrong } = readingsOf(filled, typed, beside)
    setProblems(wrong)
    setProblem(null)
    if (Object.keys(wrong).length > 0) return
    const { data, error } = await keep({
      id: String(walk.id),
      operator,
      readings,
      ...(at === null ? {} : { at }),
    })
    if (data) {
      draft.clear()
      onKept(
        data,
        filled.map((d) => d.position),
      )
      return
    }
    const { fields = {}, message, hint } = problemOf(error)
    const byDisplay = Object.entries(fields).flatMap(([key, said]) => {
      const i = /^readings\[(\d+)\]/.exec(key)?.[1]
      const display = i === undefined ? undefined : filled[Number(i)]
      return display ? [[display.position, said]] : []
    })
    setProblems(Object.fromEntries(byDisplay))
    setProblem(fields.at ?? [message, hint].filter(Boolean).join(' '))
  }
  return (
    <>
      <div className="flex flex-wrap items-start gap-x-6 border-b border-base-300 pt-2">
        <When at={at} onChange={setAt} />
        <Beside draft={beside} units={[...new Set(walk.displays.map((d) => d.unit))]} onChange={setBeside} />
      </div>
      <ul>
        {walk.displays.map((display) => (
          <Display
            key={display.position}
            display={display}
            typed={typed[display.position] ?? ''}
            besideTyped={fitsBeside(beside, display.unit) ? (typed[besideKey(display)] ?? '') : null}
            problem={problems[display.position]}
            onType={(value) => put(display.position, value)}
            onTypeBeside={(value) => put(besideKey(display), value)}
          />
        ))}
      </ul>
      <div className="flex flex-wrap items-center gap-x-6 py-3">
        <button
          type="button"
          data-walk
          className="slant slant-strong"
          disabled={isLoading || filled.length === 0}
          onClick={() => void save()}
        >
          {filled.length === 0 ? 'Keep them' : `Keep ${plural(filled.length, 'reading')}`}
        </button>
        <p role="alert" className="min-h-6 text-sm text-error">
          {problem}
        </p>
      </div>
    </>
  )
}

const besideKey = ({ position }: WalkDisplayView) => `beside ${position}`

function readingsOf(
  filled: readonly WalkDisplayView[],
  typed: Readonly<Record<string, string>>,
  draft: BesideDraft,
): { readings: BodyOf<typeof ENDPOINTS.keepWalk>['readings']; wrong: Record<string, string> } {
  const wrong: Record<string, string> = {}
  const readings = filled.map((display) => {
    const { position, low, high, unit } = display
    const shown = readTypedNumber(typed[position] ?? '', decimalMark())
    if (!shown.ok) wrong[position] = typedNumberProblem(typed[position] ?? '', shown.problem)
    else if (shown.value < low || shown.value > high) wrong[position] = `It shows ${low} to ${high}.`
    const besideText = fitsBeside(draft, unit) ? (typed[besideKey(display)] ?? '').trim() : ''
    const beside = besideText === '' ? null : besideOf(draft, besideText)
    if (typeof beside === 'string') wrong[position] = beside
    return { position, shown: shown.ok ? shown.value : 0, beside: typeof beside === 'string' ? null : beside }
  })
  return { readings, wrong }
}

interface DisplayProps {
  display: WalkDisplayView
  typed: string
  /** Null where nothing is beside it. */
  besideTyped: string | null
  problem: string | undefined
  onType: (text: string) => void
  onTypeBeside: (text: string) => void
}

function Display({ display, typed, besideTyped, problem, onType, onTypeBeside }: DisplayProps) {
  const { position, spot, quantity, unit, decimals, last } = display
  const [left, setLeft] = useState(false)
  // Half a number is far from everything: it is judged once it is whole.
  const slip =
    left || typed.replace(/\D/g, '').length > decimals ? findDisplaySlip(typed, display, decimalMark()) : null
  return (
    <li className="border-b border-base-300 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label htmlFor={`walk-${position}`} className="min-w-28 flex-1">
          <span className="block text-lg font-bold">{position}</span>
          <span className="block text-sm soft">
            {[spot, quantity].filter(Boolean).join(', ')}
            {last && `, last ${fixed(last.value, decimals)}, ${ago(last.at)}`}
          </span>
        </label>
        <Figure
          id={`walk-${position}`}
          label={`${position} shows`}
          unit={unit}
          value={typed}
          wrong={problem !== undefined}
          onType={onType}
          onLeave={() => setLeft(true)}
        />
        {besideTyped !== null && (
          <Figure label={`Beside ${position}`} unit={unit} value={besideTyped} small onType={onTypeBeside} />
        )}
      </div>
      {(problem || slip) && (
        <p role="alert" className={`pt-1 ${problem ? 'text-error' : 'text-warning'}`}>
          {problem ?? (slip && <Slip slip={slip} display={display} onTake={onType} />)}
        </p>
      )}
    </li>
  )
}

function Slip({
  slip,
  display: { decimals, unit },
  onTake,
}: {
  slip: DisplaySlip
  display: WalkDisplayView
  onTake: (text: string) => void
}) {
  if (slip.kind === 'far')
    return `Far from ${fixed(slip.usual, decimals)} ${unit}: look again. It is kept as it stands.`
  const meant = fixed(slip.meant, decimals)
  return (
    <>
      {slip.kind === 'digits' ? 'Two digits may have changed places.' : 'The decimal mark seems to be elsewhere.'} Was
      it{' '}
      <button
        type="button"
        className="min-h-11 px-2 font-bold underline underline-offset-4"
        onClick={() => onTake(slip.meant.toFixed(decimals))}
      >
        {meant}
      </button>
      ?
    </>
  )
}

interface FigureProps {
  id?: string
  label: string
  unit: string
  value: string
  wrong?: boolean
  small?: boolean
  onType: (text: string) => void
  onLeave?: () => void
}

function Figure({ id, label, unit, value, wrong = false, small = false, onType, onLeave }: FigureProps) {
  return (
    <span className="flex items-center gap-2">
      <input
        id={id}
        data-walk
        aria-label={label}
        aria-invalid={wrong}
        inputMode="decimal"
        enterKeyHint="next"
        autoComplete="off"
        className={`h-14 w-28 border px-3 sm:w-32 font-mono text-2xl ${small ? 'bg-base-200' : 'bg-base-100'} ${wrong ? 'border-error' : 'border-[color:var(--line)]'}`}
        value={value}
        onChange={(e) => onType(e.target.value)}
        onKeyDown={toNext}
        onBlur={onLeave}
      />
      <span className="w-12 text-sm soft sm:w-14">{unit}</span>
    </span>
  )
}

interface KeptProps {
  outcome: WalkOutcome
  /** The displays that were read. */
  of: readonly string[]
  onAgain: () => void
}

/** What became of them. */
function Kept({ outcome: { kept, disagreeing, alarms }, of, onAgain }: KeptProps) {
  return (
    <section aria-label="Kept" className="pt-3">
      <p role="status" className="text-lg">
        {plural(kept, 'reading')} kept.
        {disagreeing.length + alarms.length === 0 && ' Nothing stands out.'}
      </p>
      <ul>
        {alarms.map(({ position, sentence }) => (
          <Item key={`${position} alarm`} to={`/probes/${position}/readings`} action="Its readings">
            <strong>{position}</strong> {text(sentence)}.
          </Item>
        ))}
        {disagreeing.map(({ position, sentence }) => (
          <Item key={`${position} beside`} to={`/bench/start/${position}`} action="Check it">
            <strong>{position}</strong>: {text(sentence)}, more than both can explain.
          </Item>
        ))}
      </ul>
      <p className="flex flex-wrap gap-4 pt-4">
        <Link to="/" className="slant slant-strong">
          Rounds
        </Link>
        <button type="button" className="slant slant-plain" onClick={onAgain}>
          Read more
        </button>
      </p>
      <details className="pt-4">
        <summary className="min-h-11 cursor-pointer content-center soft">Something was typed wrongly</summary>
        <p className="soft">Its readings have each number that was typed; there it is taken back.</p>
        <p className="flex flex-wrap gap-x-5">
          {of.map((position) => (
            <Link
              key={position}
              to={`/probes/${position}/readings`}
              className="min-h-11 content-center underline underline-offset-4"
            >
              {position}
            </Link>
          ))}
        </p>
      </details>
    </section>
  )
}

function Item({ to, action, children }: { to: string; action: string; children: React.ReactNode }) {
  return (
    <li className="mt-2 flex flex-wrap items-center justify-between gap-x-6 border-l-4 border-warning bg-base-200 px-4 py-1.5">
      <span className="text-pretty">{children}</span>
      <Link to={to} className="min-h-11 content-center px-2 font-bold underline underline-offset-4">
        {action}
      </Link>
    </li>
  )
}
