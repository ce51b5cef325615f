import type { BringView } from '@frustum/contract'
import { Download, FileSpreadsheet } from 'lucide-react'
import { type ReactNode, useId } from 'react'
import { Link } from 'react-router'
import { plural } from '../../components/format.ts'
import type { Sheet } from './useSheet.ts'

/** What the pages of all imports are made of. */

/** What is shown of a sheet that was read, whatever is in it. */
type SheetView = Omit<BringView, 'columns'> & { columns: Readonly<Record<string, number | null | undefined>> }
type Labels = Readonly<Record<string, { label: string }>>
type AnySheet = Pick<Sheet<{ leaveOut: boolean }, unknown>, 'file' | 'options' | 'problem' | 'choose' | 'set' | 'take'>

export function Choose({
  sheet,
  busy,
  children,
}: {
  sheet: Omit<AnySheet, 'options' | 'set'>
  busy: boolean
  children: ReactNode
}) {
  const id = useId()
  const { file, problem } = sheet
  return (
    <>
      <div className="flex flex-wrap items-center gap-5">
        <label htmlFor={id} className="slant slant-strong cursor-pointer">
          <FileSpreadsheet className="size-5" aria-hidden="true" /> {file ? 'Another file' : 'Choose the file'}
        </label>
        <input
          id={id}
          type="file"
          accept=".csv,.txt,.tsv,.xlsx,.json,.senml"
          className="sr-only"
          onChange={(e) => {
            const [chosen] = e.target.files ?? []
            e.target.value = ''
            if (chosen) sheet.choose(chosen)
          }}
        />
        {children}
        {file && <span className="soft">{file.name}</span>}
        {busy && (
          <span role="status" className="soft">
            Reading …
          </span>
        )}
      </div>
      {problem && (
        <div role="alert" className="mt-4 border-l-4 border-error bg-base-200 p-4">
          <p className="font-bold">{problem.message}</p>
          <p>{problem.more}</p>
        </div>
      )}
    </>
  )
}

interface ColumnsProps {
  view: SheetView
  known: Labels
  onChange: (part: { columns?: SheetView['columns'] | null; sheet?: number; headingRow?: number | null }) => void
}

/** The columns folded away under what was found in them: where there are many, few are ever put right. */
export function FoldedColumns(props: ColumnsProps) {
  const { view, known } = props
  const found = Object.entries(known).flatMap(([column, { label }]) => {
    const at = view.columns[column]
    return at == null ? [] : [`${label}: ${view.headers[at] || `column ${at + 1}`}`]
  })
  return (
    <details className="mt-5 border-t border-base-300 pt-4">
      <summary className="cursor-pointer text-pretty">
        <strong>Which column is what?</strong>{' '}
        <span className="soft">{found.length > 0 ? found.join(' · ') : 'none was known by its heading'}</span>
      </summary>
      <Columns {...props} />
    </details>
  )
}

/** Which column holds what, as guessed or chosen. */
export function Columns({ view, known, onChange }: ColumnsProps) {
  const choose = (column: string, at: string) =>
    onChange({ columns: { ...view.columns, [column]: at === '' ? null : Number(at) } })
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">Which column is what?</legend>
      {view.sheets.length > 1 && (
        <Select
          label="Sheet"
          value={String(view.sheet)}
          onChange={(v) => onChange({ sheet: Number(v), columns: null, headingRow: null })}
        >
          {view.sheets.map((name, i) => (
            <option key={name} value={i}>
              {name}
            </option>
          ))}
        </Select>
      )}
      {view.firstRows.length > 1 && (
        <Select
          label="Heading row"
          value={String(view.headingRow)}
          onChange={(v) => onChange({ headingRow: Number(v), columns: null })}
        >
          {view.firstRows.map((cells, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its number; rows may repeat
            <option key={i} value={i + 1}>
              {i + 1}: {cells || 'blank'}
            </option>
          ))}
        </Select>
      )}
      <div className="clear-both grid grid-cols-2 gap-x-6 gap-y-2 lg:grid-cols-4">
        {Object.entries(known).map(([column, { label }]) => (
          <Select
            key={column}
            label={label}
            value={String(view.columns[column] ?? '')}
            onChange={(v) => choose(column, v)}
          >
            <option value="">not in the file</option>
            {view.headers.map((name, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a column is its number; headings may repeat
              <option key={i} value={i}>
                {name || `column ${i + 1}`}
              </option>
            ))}
          </Select>
        ))}
      </div>
    </fieldset>
  )
}

const count = (view: SheetView, state: SheetView['rows'][number]['state']) =>
  view.rows.filter((r) => r.state === state).length

/** What would become of it, in numbers. */
export function Looked({ view, one }: { view: SheetView; one: string }) {
  const wrong = count(view, 'wrong')
  return (
    <p className="py-3 text-lg" role="status">
      <strong>{plural(count(view, 'new'), `new ${one}`)}</strong>, {count(view, 'known')} here already,{' '}
      <span className={wrong > 0 ? 'font-bold text-error' : ''}>{plural(wrong, 'row')} wrong</span>.
    </p>
  )
}

/** More rows than anybody reads are not drawn; those that are wrong always are. */
const MOST_DRAWN = 300

export function Rows({ view, labels }: { view: SheetView; labels: Labels }) {
  const wrong = alikeWrong(view.rows, labels)
  const others = view.rows.filter((r) => r.state !== 'wrong')
  const drawn = others.slice(0, MOST_DRAWN)
  const left = others.length - drawn.length
  return (
    <>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
      <section className="max-h-[60vh] overflow-auto" aria-label="Rows" tabIndex={0}>
        <table className="w-full text-left sm:min-w-160">
          <thead className="soft">
            <tr>
              <th scope="col" className="pr-4">
                Row
              </th>
              <th scope="col" className="pr-4">
                Code
              </th>
              <th scope="col">What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            {wrong.map(({ numbers, codes, words }) => (
              <tr key={numbers} className="border-t border-base-300 align-top">
                <td className="max-w-40 py-2 pr-4 font-mono soft">{numbers}</td>
                <td className="py-2 pr-4 font-bold whitespace-nowrap">{codes}</td>
                <td className="w-full py-2 text-error">{words}</td>
              </tr>
            ))}
            {drawn.map((r) => (
              <tr key={r.number} className="border-t border-base-300 align-top">
                <td className="py-2 pr-4 font-mono soft">{r.number}</td>
                <td className="py-2 pr-4 font-bold whitespace-nowrap">{r.code}</td>
                <td className={`w-full py-2 ${r.state === 'known' ? 'soft' : ''}`}>{r.what}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {left > 0 && <p className="pt-2 soft">And {left} more like these; the report has them all.</p>}
    </>
  )
}

/** Rows with the same problem as one: "4 to 9, 12". */
export function alikeWrong(
  rows: SheetView['rows'],
  labels: Labels,
): { numbers: string; codes: string; words: string }[] {
  const byWords = new Map<string, SheetView['rows']>()
  for (const row of rows.filter((r) => r.state === 'wrong')) {
    const words = wrongWords(row.wrong, labels)
    byWords.set(words, [...(byWords.get(words) ?? []), row])
  }
  return [...byWords].map(([words, alike]) => {
    const codes = [...new Set(alike.map((r) => r.code))]
    return { words, codes: codes.length === 1 ? (codes[0] ?? '') : '', numbers: runsOf(alike.map((r) => r.number)) }
  })
}

function runsOf(numbers: readonly number[]): string {
  const runs: [number, number][] = []
  for (const number of numbers) {
    const last = runs.at(-1)
    if (last && number === last[1] + 1) last[1] = number
    else runs.push([number, number])
  }
  return runs.map(([from, to]) => (from === to ? `${from}` : `${from} to ${to}`)).join(', ')
}

const wrongWords = (wrong: Readonly<Record<string, string>>, labels: Labels) =>
  Object.entries(wrong)
    .map(([column, why]) => `${labels[column]?.label ?? column}: ${why}`)
    .join(' ')

interface TakeInProps {
  sheet: AnySheet
  view: SheetView
  one: string
  busy: boolean
}

/** Takes it in, where all of it is right or what is not is to be left out. */
export function TakeIn({ sheet: { options, set, take }, view, one, busy }: TakeInProps) {
  const [wrong, fresh] = [count(view, 'wrong'), count(view, 'new')]
  return (
    <div className="flex flex-wrap items-center gap-6 pt-5">
      {wrong > 0 && (
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={options.leaveOut}
            onChange={(e) => set({ leaveOut: e.target.checked })}
          />
          Leave the wrong ones out
        </label>
      )}
      <button
        type="button"
        className="slant slant-strong min-h-14 px-9 text-xl"
        disabled={busy || fresh === 0 || (wrong > 0 && !options.leaveOut)}
        onClick={take}
      >
        Take in {plural(fresh, one)}
      </button>
    </div>
  )
}

/** What was taken in, where it is to be seen, and the report to keep. */
export function Taken({
  view,
  what,
  report,
  labels,
}: {
  view: SheetView
  what: string
  report: string
  labels: Labels
}) {
  return (
    <div role="status" className="mt-5 border-l-4 border-success bg-base-200 p-4">
      <p className="text-lg font-bold">{what} taken in.</p>
      <p className="flex flex-wrap gap-6 pt-2">
        <Link to="/" className="slant slant-strong">
          To Rounds
        </Link>
        <Link to="/rig" className="slant">
          To Rig
        </Link>
        <Save text={reportOf(view, labels)} name={report}>
          The report
        </Save>
      </p>
    </div>
  )
}

const reportOf = (view: SheetView, labels: Labels) =>
  `${[
    'Row;Code;State;What became of it',
    ...view.rows.map((r) =>
      [r.number, r.code, r.state === 'wrong' ? 'left out' : r.state, r.what || wrongWords(r.wrong, labels)]
        .map((cell) => `"${String(cell).replaceAll('"', '""')}"`)
        .join(';'),
    ),
    `"";"";"SHA-256 of the file";"${view.sha256}"`,
  ].join('\r\n')}\r\n`

export function Save({ text, name, children }: { text: string; name: string; children: ReactNode }) {
  return (
    <a className="slant" download={name} href={`data:text/csv;charset=utf-8,%EF%BB%BF${encodeURIComponent(text)}`}>
      <Download className="size-4" aria-hidden="true" /> {children}
    </a>
  )
}

interface SelectProps {
  label: string
  value: string
  onChange: (value: string) => void
  children: ReactNode
}

export function Select({ label, value, onChange, children }: SelectProps) {
  return (
    <label className="block min-w-0">
      <span className="block text-sm soft">{label}</span>
      <select
        className="h-11 w-full min-w-0 border border-[color:var(--line)] bg-base-100 px-2"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      >
        {children}
      </select>
    </label>
  )
}
