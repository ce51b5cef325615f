import {
  type BringOptions,
  type BringView,
  SENSOR_COLUMN_NAMES,
  SENSOR_COLUMNS,
  type SensorColumn,
} from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { WATER_KINDS, WATERS } from '@frustum/core'
import { Download, FileSpreadsheet } from 'lucide-react'
import { type ReactNode, useId, useState } from 'react'
import { Link } from 'react-router'
import { plural } from '../../components/format.ts'
import { problemOf, useBringSensorsMutation, useImportSetUpMutation, useSiteQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'

const BEGIN: BringOptions = {
  sheet: 0,
  columns: null,
  place: '',
  water: '',
  adjustsBy: 'key',
  inUse: true,
  leaveOut: false,
  take: false,
}

/** A template to fill in: every column that is understood, and a row that shows how. */
const TEMPLATE = `${[
  SENSOR_COLUMN_NAMES.map((c) => SENSOR_COLUMNS[c].label).join(';'),
  'T1-pH-1;pH;Fish room;tank 1;seawater;Controller 1;CAL;0417;Gel pH;8.2;25;0.1;90',
].join('\r\n')}\r\n`

/** What people have already: a list of their sensors, or records of another Frustum. */
export function BringRoom() {
  const { data: site } = useSiteQuery()
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <h1 className="text-2xl">Bring in what you have</h1>
      {site && !site.exists ? (
        <p className="max-w-prose pt-3 text-lg">
          First the name of the site and yours, so that what comes in has its place and its author.{' '}
          <Link to="/set-up" className="font-bold underline underline-offset-4">
            Set up your site
          </Link>
        </p>
      ) : (
        <ListOfSensors />
      )}
      <SetUpFile />
      <section className="mt-8 border-t border-base-300 pt-4">
        <h2 className="text-lg">Records of another Frustum</h2>
        <p className="max-w-prose pt-1">
          A file of records (JSON) that was exported on a Ledger is taken in on the{' '}
          <Link to="/ledger" className="underline underline-offset-4">
            Ledger
          </Link>{' '}
          of this one.
        </p>
      </section>
    </div>
  )
}

/** The whole set-up of another site, where there is no sensor yet. */
function SetUpFile() {
  const [send, { isLoading }] = useImportSetUpMutation()
  const [said, setSaid] = useState<{ good: boolean; message: string; more: string } | null>(null)
  const { operator } = useAppSelector(actorOf)
  const id = useId()
  const read = async (chosen: File) => {
    let file: unknown
    try {
      file = JSON.parse(await chosen.text())
    } catch {
      setSaid({ good: false, message: `${chosen.name} is not readable JSON.`, more: 'Nothing was taken in.' })
      return
    }
    const answer = await send({ file, operator })
    if (answer.data) {
      setSaid({
        good: true,
        message: `${plural(answer.data.sensors, 'position')} taken in.`,
        more: 'They stand on Rig.',
      })
      return
    }
    const { message, detail, hint } = problemOf(answer.error)
    setSaid({ good: false, message, more: [detail, hint].filter(Boolean).join(' ') })
  }
  return (
    <section className="mt-8 border-t border-base-300 pt-4" aria-label="A set-up">
      <h2 className="text-lg">A set-up</h2>
      <p className="max-w-prose pt-1 pb-3">
        Places, devices, positions, sensors, people and shelf of a site as one file (JSON), taken in where there is no
        sensor yet. That of this site is saved here.
      </p>
      <div className="flex flex-wrap items-center gap-5">
        <label htmlFor={id} className="slant cursor-pointer">
          <FileSpreadsheet className="size-5" aria-hidden="true" /> Choose a set-up
        </label>
        <input
          id={id}
          type="file"
          accept="application/json,.json"
          className="sr-only"
          disabled={isLoading}
          onChange={(e) => {
            const [chosen] = e.target.files ?? []
            e.target.value = ''
            if (chosen) void read(chosen)
          }}
        />
        <a className="slant" href={addressOf(ENDPOINTS.exportSetUp, {})} download>
          <Download className="size-4" aria-hidden="true" /> Save that of this site
        </a>
      </div>
      {said && (
        <div
          role={said.good ? 'status' : 'alert'}
          className={`mt-4 border-l-4 bg-base-200 p-4 ${said.good ? 'border-success' : 'border-error'}`}
        >
          <p className="font-bold">{said.message}</p>
          <p>{said.more}</p>
        </div>
      )}
    </section>
  )
}

function ListOfSensors() {
  const [file, setFile] = useState<File | null>(null)
  const [options, setOptions] = useState(BEGIN)
  const [view, setView] = useState<BringView | null>(null)
  const [problem, setProblem] = useState<{ message: string; more: string } | null>(null)
  const [bring, { isLoading }] = useBringSensorsMutation()
  const { operator } = useAppSelector(actorOf)
  const id = useId()
  const look = async (of: File, next: BringOptions) => {
    setOptions(next)
    setProblem(null)
    const answer = await bring({ file: of, name: of.name, operator, options: next })
    if (answer.data) setView(answer.data)
    else {
      const { message, detail, hint } = problemOf(answer.error)
      setProblem({ message, more: [detail, hint].filter(Boolean).join(' ') })
      if (!next.take) setView(null)
    }
  }
  const change = (part: Partial<BringOptions>) => file && void look(file, { ...options, ...part, take: false })
  const wrong = view?.rows.filter((r) => r.state === 'wrong').length ?? 0
  const fresh = view?.rows.filter((r) => r.state === 'new').length ?? 0
  return (
    <section aria-label="A list of sensors">
      <h2 className="pt-4 text-lg">A list of your sensors</h2>
      <p className="max-w-prose pb-3">
        CSV or XLSX with one heading row, a sensor a row. Only what it measures must be there; the rest is what is usual
        in its water. You see what becomes of each row before anything is written.
      </p>
      <div className="flex flex-wrap items-center gap-5">
        <label htmlFor={id} className="slant slant-strong cursor-pointer">
          <FileSpreadsheet className="size-5" aria-hidden="true" /> {file ? 'Another file' : 'Choose the file'}
        </label>
        <input
          id={id}
          type="file"
          accept=".csv,.txt,.tsv,.xlsx"
          className="sr-only"
          onChange={(e) => {
            const [chosen] = e.target.files ?? []
            e.target.value = ''
            if (!chosen) return
            setFile(chosen)
            void look(chosen, BEGIN)
          }}
        />
        <Save text={TEMPLATE} name="sensors.csv">
          A template to fill in
        </Save>
        {file && <span className="soft">{file.name}</span>}
        {isLoading && (
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
      {view && view.taken !== null && (
        <div role="status" className="mt-5 border-l-4 border-success bg-base-200 p-4">
          <p className="text-lg font-bold">{plural(view.taken, 'sensor')} taken in.</p>
          <p className="flex flex-wrap gap-6 pt-2">
            <Link to="/" className="slant slant-strong">
              To Rounds
            </Link>
            <Link to="/rig" className="slant">
              To Rig
            </Link>
            <Save text={reportOf(view)} name="sensors-report.csv">
              The report
            </Save>
          </p>
        </div>
      )}
      {view && view.taken === null && (
        <>
          <Columns view={view} onChange={change} />
          <ForAll options={options} onChange={change} />
          <p className="py-3 text-lg" role="status">
            <strong>{plural(fresh, 'new sensor')}</strong>, {view.rows.length - fresh - wrong} here already,{' '}
            <span className={wrong > 0 ? 'font-bold text-error' : ''}>{plural(wrong, 'row')} wrong</span>.
          </p>
          <Rows view={view} />
          <div className="flex flex-wrap items-center gap-6 pt-5">
            {wrong > 0 && (
              <label className="flex min-h-11 items-center gap-3">
                <input
                  type="checkbox"
                  className="checkbox border-[color:var(--line)]"
                  checked={options.leaveOut}
                  onChange={(e) => setOptions({ ...options, leaveOut: e.target.checked })}
                />
                Leave the wrong ones out
              </label>
            )}
            <button
              type="button"
              className="slant slant-strong min-h-14 px-9 text-xl"
              disabled={isLoading || fresh === 0 || (wrong > 0 && !options.leaveOut)}
              onClick={() => file && void look(file, { ...options, columns: view.columns, take: true })}
            >
              Take in {plural(fresh, 'sensor')}
            </button>
          </div>
        </>
      )}
    </section>
  )
}

type OnChange = (part: Partial<BringOptions>) => void

/** Which column holds what, as guessed or chosen. */
function Columns({ view, onChange }: { view: BringView; onChange: OnChange }) {
  const choose = (column: SensorColumn, at: string) =>
    onChange({ columns: { ...view.columns, [column]: at === '' ? null : Number(at) } })
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">Which column is what?</legend>
      {view.sheets.length > 1 && (
        <Select
          label="Sheet"
          value={String(view.sheet)}
          onChange={(v) => onChange({ sheet: Number(v), columns: null })}
        >
          {view.sheets.map((name, i) => (
            <option key={name} value={i}>
              {name}
            </option>
          ))}
        </Select>
      )}
      <div className="clear-both grid grid-cols-2 gap-x-6 gap-y-2 lg:grid-cols-4">
        {SENSOR_COLUMN_NAMES.map((column) => (
          <Select
            key={column}
            label={SENSOR_COLUMNS[column].label}
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

/** What holds for every row that does not say it itself. */
function ForAll({ options, onChange }: { options: BringOptions; onChange: OnChange }) {
  const [place, setPlace] = useState(options.place)
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">Where a row does not say it</legend>
      <div className="clear-both flex flex-wrap items-end gap-x-6 gap-y-2">
        <label className="block">
          <span className="block text-sm soft">Place</span>
          <input
            className="h-11 w-48 border border-[color:var(--line)] bg-base-100 px-2"
            value={place}
            onChange={(e) => setPlace(e.target.value)}
            onBlur={() => place !== options.place && onChange({ place })}
          />
        </label>
        <Select label="Water" value={options.water} onChange={(water) => onChange({ water })}>
          <option value="">not said</option>
          {WATER_KINDS.map((w) => (
            <option key={w} value={w}>
              {WATERS[w].label}
            </option>
          ))}
        </Select>
        <Select
          label="Calibrated by"
          value={options.adjustsBy}
          onChange={(v) => onChange({ adjustsBy: v as BringOptions['adjustsBy'] })}
        >
          <option value="key">a key of its own</option>
          <option value="numbers">numbers keyed in</option>
          <option value="nothing">nothing</option>
        </Select>
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={options.inUse}
            onChange={(e) => onChange({ inUse: e.target.checked })}
          />
          They are in use
        </label>
      </div>
    </fieldset>
  )
}

function Rows({ view }: { view: BringView }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard
    <section className="max-h-[60vh] overflow-auto" aria-label="Rows" tabIndex={0}>
      <table className="w-full min-w-160 text-left">
        <thead className="soft">
          <tr>
            <th scope="col">Row</th>
            <th scope="col">Code</th>
            <th scope="col">What becomes of it</th>
          </tr>
        </thead>
        <tbody>
          {view.rows.map((r) => (
            <tr key={r.number} className="border-t border-base-300 align-top">
              <td className="py-2 font-mono soft">{r.number}</td>
              <td className="py-2 font-bold">{r.code}</td>
              <td className="py-2">
                {r.state === 'wrong' ? (
                  <span className="text-error">
                    {Object.entries(r.wrong)
                      .map(([column, why]) => `${labelOf(column)}: ${why}`)
                      .join(' ')}
                  </span>
                ) : (
                  <span className={r.state === 'known' ? 'soft' : ''}>{r.what}</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

const labelOf = (column: string) => (column in SENSOR_COLUMNS ? SENSOR_COLUMNS[column as SensorColumn].label : column)

const reportOf = (view: BringView) =>
  `${[
    'Row;Code;State;What became of it',
    ...view.rows.map((r) =>
      [r.number, r.code, r.state === 'wrong' ? 'left out' : r.state, r.what || Object.values(r.wrong).join(' ')]
        .map((cell) => `"${String(cell).replaceAll('"', '""')}"`)
        .join(';'),
    ),
    `"";"";"SHA-256 of the file";"${view.sha256}"`,
  ].join('\r\n')}\r\n`

function Save({ text, name, children }: { text: string; name: string; children: ReactNode }) {
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

function Select({ label, value, onChange, children }: SelectProps) {
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
