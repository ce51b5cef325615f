import type { RecordView } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import {
  type CapturedReading,
  type ClosedRecord,
  DECISION_WORDS,
  isOverLine,
  type PointRecord,
  type TemperatureSource,
  WORK_WORDS,
} from '@frustum/core'
import { Download, Printer } from 'lucide-react'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { toast } from 'sonner'
import { For } from '../../components/For.tsx'
import { celsius, clock, day, dayTime, listed, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useCorrectMutation, useRecordQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Findings } from '../bench/DecisionPanel.tsx'
import { Thumbnail } from './Thumbnail.tsx'

const GIVEN_WORDS: Record<NonNullable<ClosedRecord['applied']>['way'], string> = {
  link: 'over the link',
  keyed: 'keyed in',
  key: 'by its own key',
  noted: 'as it was noted',
}

/** A visit on one page, to read and to print. */
export function RecordPage() {
  const { id = '' } = useParams()
  const { data: view, error, refetch } = useRecordQuery(id, { refetchOnMountOrArgChange: true })
  if (!view) return <Fetching what="the record" error={error} onRetry={refetch} />
  const { record, site } = view
  const { timeZone } = site
  return (
    <article className="mx-auto w-full max-w-5xl px-5 py-5 print:max-w-none print:p-0">
      <header className="flex flex-wrap items-start justify-between gap-4 border-b border-base-300 pb-3">
        <div>
          <h1 className="text-2xl">
            {view.position} · {record.procedureName}
          </h1>
          <p className="soft">
            {listed(
              view.quantity,
              view.place,
              view.spot,
              view.model,
              view.serialNumber && `serial ${view.serialNumber}`,
            )}
          </p>
          <p>
            {view.operator}, {whenOf(view)} · {site.name}
          </p>
          <p className="font-mono text-xs soft">{view.id}</p>
        </div>
        <div className="no-print flex flex-wrap gap-3">
          <button type="button" className="slant" onClick={() => window.print()}>
            <Printer className="size-4" aria-hidden="true" /> Print
          </button>
          <a className="slant" href={addressOf(ENDPOINTS.exportJson, {}, { visit: view.id })} download>
            <Download className="size-4" aria-hidden="true" /> JSON
          </a>
          <a className="slant" href={addressOf(ENDPOINTS.exportCsv, {}, { visit: view.id })} download>
            <Download className="size-4" aria-hidden="true" /> CSV
          </a>
          <Link to={`/probes/${view.position}`} className="slant slant-plain">
            The probe
          </Link>
        </div>
      </header>
      {view.corrections.length > 0 && (
        <section className="mt-4 border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-3">
          <h2 className="text-base">Corrected</h2>
          {view.corrections.map((c) => (
            <p key={c.at}>
              {dayTime(c.at, timeZone)}, {c.operator}: {c.text}
            </p>
          ))}
        </section>
      )}
      {view.known === 'later' && (
        <p className="pt-3 text-sm soft">
          {view.fromList
            ? 'Taken in from a list: what is in it was noted elsewhere. Tolerance and device are as they were known when it was taken in; what nobody noted is not known.'
            : 'This record is older than the keeping of what a visit is judged with: tolerance, lots and device are as they were known later.'}
        </p>
      )}
      <Outcome view={view} />
      <Points view={view} />
      {record.result && (
        <section className="pt-5">
          <h2 className="pb-2 text-base soft">Findings</h2>
          <Findings findings={record.result.findings} />
        </section>
      )}
      <Lines record={record} timeZone={view.fromList ? null : timeZone} />
      {view.closedAt && (
        <For needs="operator">
          <Correct id={view.id} />
        </For>
      )}
    </article>
  )
}

function Outcome({ view }: { view: RecordView }) {
  const { record } = view
  const { result, decisions, drift, work, applied } = record
  const facts: [string, string][] = [
    ...(work ? [['What was done', WORK_WORDS[work]] as [string, string]] : []),
    ['As found', record.asFound ? listed(text(record.asFound), view.verdict) : 'not measured'],
    ['As left', record.asLeft ? text(record.asLeft) : 'not verified'],
    ['Tolerance', `± ${text(view.tolerance)}`],
    ['Device', listed(view.device, view.setting)],
    ...(result?.figures ?? [])
      .filter((f) => !f.label.startsWith('As found'))
      .map((f): [string, string] => [f.label, `${text(f.value)}  ${text(f.note)}`]),
    ...(applied
      ? [
          ['Device since', [text(applied.parameters), GIVEN_WORDS[applied.way]].filter(Boolean).join(', ')] as [
            string,
            string,
          ],
        ]
      : []),
  ]
  return (
    <section className="pt-4">
      {view.outcome === 'abandoned' && <p className="pb-3 text-xl font-bold">Ended without a result</p>}
      <dl className="grid gap-x-8 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
        {facts.map(([name, fact]) => (
          <div key={name}>
            <dt className="text-sm soft">{name}</dt>
            <dd className="font-bold">{fact}</dd>
          </div>
        ))}
      </dl>
      {drift && <p className="pt-3">{text(drift)}</p>}
      {decisions.map((d) => (
        <p key={d.step} className="pt-1">
          {d.step}: <strong>{DECISION_WORDS[d.decision]}</strong>
          {d.decision === d.proposed ? ', as proposed' : `; proposed was “${DECISION_WORDS[d.proposed]}”`}
          {d.note ? `. “${d.note}”` : '.'}
        </p>
      ))}
    </section>
  )
}

function Points({ view: { record, readings } }: { view: RecordView }) {
  if (record.points.length === 0) return null
  return (
    <section className="pt-5">
      <h2 className="pb-1 text-base soft">Readings</h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
      <section className="overflow-x-auto print:overflow-visible" aria-label="Readings" tabIndex={0}>
        <table className="w-full min-w-170 text-left print:min-w-0 print:text-sm">
          <thead className="soft">
            <tr className="border-b border-base-300">
              {['Step', 'Trace', 'Signal', 'Shown', 'Right', 'At', 'Settled', 'Lot'].map((h) => (
                <th key={h} scope="col" className="py-2 pr-3 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {record.points.map((point) => (
              <PointRow key={point.step} point={point} reading={readings[point.seq]} />
            ))}
          </tbody>
        </table>
      </section>
    </section>
  )
}

function PointRow({ point, reading }: { point: PointRecord; reading: CapturedReading | undefined }) {
  const { label, signal, shown, workedOut, standard } = point
  return (
    <tr className="border-b border-base-300">
      <td className="py-1.5 pr-3">{label}</td>
      <td className="pr-3">{reading && <Thumbnail trace={reading.trace} />}</td>
      <td className="pr-3 font-mono whitespace-nowrap">
        {signal ? text(signal) : '–'}
        {signal && workedOut === 'signal' && <span className="block font-sans text-xs soft">worked out</span>}
      </td>
      <td className="pr-3 font-mono whitespace-nowrap">
        {shown ? text(shown) : <span className="font-sans soft">not read</span>}
      </td>
      <td className="pr-3 font-mono whitespace-nowrap">{standard && text(standard.value)}</td>
      <td className="pr-3 whitespace-nowrap">
        {reading && celsius(reading.temperature)}
        {reading?.temperatureFrom && (
          <span className="block text-xs soft">{TEMPERATURE_WORDS[reading.temperatureFrom.from]}</span>
        )}
      </td>
      <td className="pr-3 whitespace-nowrap">
        {reading && `${settledWords(reading)}${reading.earlyReason ? `, early: ${reading.earlyReason}` : ''}`}
      </td>
      <td className="font-mono">{standard?.lot ?? ''}</td>
    </tr>
  )
}

/** Of what was noted elsewhere the day is known; its hour, where it was noted, stands in its row. */
function whenOf({ startedAt, closedAt, fromList, site: { timeZone } }: RecordView): string {
  // On paper the year says when.
  if (fromList) return day(startedAt, timeZone, 0)
  return `${dayTime(startedAt, timeZone, 0)}${closedAt ? ` to ${clock(closedAt, timeZone)}` : ', still open'}`
}

/** Said where a temperature was not read off the device itself. */
const TEMPERATURE_WORDS: Record<TemperatureSource['from'], string> = {
  device: '',
  thermometer: 'thermometer',
  sensor: 'another sensor',
  fixed: 'fixed in the device',
  earlier: 'as before, not read',
  usual: 'the usual, not read',
}

/** What a reading was taken as, where it was not known to rest. */
const TAKEN_AS: Partial<Record<CapturedReading['stability']['state'], string>> = {
  known: ', rest not waited for',
  creeping: ', creeping',
}

/** By a line the seconds it took; by eye what was said to be enough. */
function settledWords({ stability, source }: CapturedReading): string {
  if (stability.state === 'unknown') return 'not noted'
  if (stability.reason === 'own-watch') return 'by own watch'
  if (stability.reason === 'typed-agree') return 'typed twice'
  return isOverLine(source) || source === 'not-noted'
    ? `${stability.seconds} s${TAKEN_AS[stability.state] ?? ''}`
    : 'typed once'
}

/** @param timeZone null where no line has an hour of its own */
function Lines({ record, timeZone }: { record: ClosedRecord; timeZone: string | null }) {
  return (
    <section className="pt-5">
      <h2 className="pb-1 text-base soft">Line by line</h2>
      <ol className="text-sm">
        {record.lines.map((l) => (
          <li key={l.seq} className="flex gap-4 border-b border-base-300 py-1">
            {timeZone && <span className="font-mono whitespace-nowrap soft">{clock(l.at, timeZone)}</span>}
            <span className="min-w-0 flex-1 text-pretty wrap-anywhere">{text(l.sentence)}</span>
            <span className="whitespace-nowrap soft">{l.operator}</span>
          </li>
        ))}
      </ol>
    </section>
  )
}

/** The record stays as it was written; what is to be read instead stands above it. */
function Correct({ id }: { id: string }) {
  const [correct, { isLoading }] = useCorrectMutation()
  const { operator } = useAppSelector(actorOf)
  const [text, setText] = useState('')
  const [problem, setProblem] = useState('')
  const send = async () => {
    const answer = await correct({ id, operator, text })
    if (answer.data) {
      setText('')
      setProblem('')
      toast.success('The correction stands above the record.')
      return
    }
    const { fields, message } = problemOf(answer.error)
    setProblem(fields?.text ?? message)
  }
  return (
    <section className="no-print pt-6">
      <label className="block max-w-2xl">
        <span className="font-bold">Something is wrong in this record?</span>
        <span className="block text-sm soft">
          Nothing is overwritten: say what is to be read instead, and why. It stands above the record from then on.
        </span>
        <textarea
          rows={2}
          className="mt-1 w-full border border-[color:var(--line)] bg-base-100 p-3"
          maxLength={500}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <span role="alert" className="block min-h-6 text-sm text-error">
          {problem}
        </span>
      </label>
      <button type="button" className="slant" disabled={isLoading} onClick={() => void send()}>
        Add correction
      </button>
    </section>
  )
}
