import {
  type BringLogOptions,
  type BringLogView,
  LOG_AS_IT_LOOKS,
  LOG_PARTS,
  type LogChannel,
  type LogColumns,
  type LogPart,
} from '@frustum/contract'
import { dayTime, fixed, plural } from '../../components/format.ts'
import { useBringLogMutation, useBringProgressQuery, useRigQuery, useSiteQuery } from '../../store/api.ts'
import { Choose, Select } from './sheetParts.tsx'
import { useSheet } from './useSheet.ts'

const LABELS: Record<keyof LogColumns, string> = {
  time: 'Time',
  clock: 'Time of day, if apart',
  name: 'Name of the sensor',
  value: 'Value',
}
const UNITS = ['mV', 'V', 'µS/cm', 'mS/cm', 'S/m', 'mg/L', '°C', '°F', 'ppt']

/** What loggers and other programs have kept of the sensors that are here. */
export function LogOfReadings() {
  const [bring, { isLoading }] = useBringLogMutation()
  const sheet = useSheet<BringLogOptions, BringLogView>(LOG_AS_IT_LOOKS, bring)
  const { view, options } = sheet
  return (
    <section className="mt-8 border-t border-base-300" aria-label="Log of readings">
      <h2 className="pt-4 text-lg">Log of readings</h2>
      <p className="max-w-prose pb-3">
        What a logger or another program kept: CSV, XLSX or SenML, a column for each sensor or a row for each reading.
        What is here already stays as it is, so the same file may come twice.
      </p>
      <Choose sheet={sheet} busy={isLoading && !options.take}>
        {null}
      </Choose>
      {isLoading && options.take && <Progress />}
      {view && view.taken !== null && (
        <p role="status" className="py-4 text-lg">
          <strong>{plural(view.taken, 'new reading')}</strong> taken in.
          {view.wrong > 0 && ` ${plural(view.wrong, 'row')} left out.`} They stand under the readings of each sensor.
        </p>
      )}
      {view && view.taken === null && !(isLoading && options.take) && (
        <Looked sheet={sheet} view={view} busy={isLoading} />
      )}
    </section>
  )
}

interface LookedProps {
  sheet: ReturnType<typeof useSheet<BringLogOptions, BringLogView>>
  view: BringLogView
  busy: boolean
}

function Looked({ sheet, view, busy }: LookedProps) {
  const { data: site } = useSiteQuery()
  const { options, change, set, take } = sheet
  const timeZone = site?.timeZone ?? 'UTC'
  const readings = view.channels.reduce((sum, c) => sum + (c.of === 'reading' ? c.readings : 0), 0)
  const isClear = view.asked.length === 0 && view.channels.every((c) => c.problem === null)
  return (
    <>
      <How view={view} onChange={change} />
      <Channels
        view={view}
        chosen={options.channels}
        onChange={(channels) => change({ columns: view.columns, channels })}
      />
      {view.asked.map((question) => (
        <p key={question} role="status" className="pt-3 text-lg font-bold">
          {question}
        </p>
      ))}
      <p className="py-3 text-lg" role="status">
        <strong>{plural(readings, 'reading')}</strong> of {plural(view.rows, 'row')}
        {view.from !== null && view.to !== null && `, ${dayTime(view.from, timeZone)} to ${dayTime(view.to, timeZone)}`}
        {view.wrong > 0 && <span className="font-bold text-error">, {plural(view.wrong, 'row')} wrong</span>}.
      </p>
      {view.wrongRows.length > 0 && (
        <ul className="pb-3 text-sm">
          {view.wrongRows.slice(0, 5).map(({ number, why }) => (
            <li key={number}>
              Row {fixed(number, 0)}: {why}
            </li>
          ))}
        </ul>
      )}
      {view.wrong > 0 && (
        <label className="flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox border-[color:var(--line)]"
            checked={options.leaveOut}
            onChange={(e) => set({ leaveOut: e.target.checked })}
          />
          Leave out what is wrong
        </label>
      )}
      <button
        type="button"
        className="slant slant-strong"
        disabled={busy || !isClear || readings === 0 || (view.wrong > 0 && !options.leaveOut)}
        onClick={take}
      >
        Take them in
      </button>
    </>
  )
}

const bare = ({ name, position, unit, of }: LogChannel): LogChannel => ({ name, position, unit, of })

const PART_WORDS: Record<LogPart, string> = { reading: 'its reading', temperature: 'its temperature' }

/** Which column is what, and in which zone its times are. */
function How({ view, onChange }: { view: BringLogView; onChange: (part: Partial<BringLogOptions>) => void }) {
  const column = (key: keyof LogColumns) => (
    <Select
      key={key}
      label={LABELS[key]}
      value={String(view.columns[key] ?? '')}
      onChange={(v) => onChange({ columns: { ...view.columns, [key]: v === '' ? null : Number(v) }, channels: null })}
    >
      <option value="">not in the file</option>
      {view.headers.map((name, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a column is its number; headings may repeat
        <option key={i} value={i}>
          {name || `column ${i + 1}`}
        </option>
      ))}
    </Select>
  )
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">How is it to be read?</legend>
      <div className="clear-both grid grid-cols-2 gap-x-6 gap-y-2 lg:grid-cols-3">
        {view.sheets.length > 1 && (
          <Select
            label="Sheet"
            value={String(view.sheet)}
            onChange={(v) => onChange({ sheet: Number(v), columns: null, channels: null })}
          >
            {view.sheets.map((name, i) => (
              <option key={name} value={i}>
                {name}
              </option>
            ))}
          </Select>
        )}
        {(['time', 'clock', 'name', 'value'] as const).map(column)}
        <Select
          label="Dates"
          value={view.dateOrder ?? ''}
          onChange={(v) => onChange({ columns: view.columns, dateOrder: v === '' ? null : (v as 'dmy' | 'mdy') })}
        >
          <option value="">Choose</option>
          <option value="dmy">day before month, or year first</option>
          <option value="mdy">month before day</option>
        </Select>
        {view.zoned !== 'all' && (
          <Select
            label="Its times are those of"
            value={view.timeZone}
            onChange={(zone) => onChange({ columns: view.columns, timeZone: zone })}
          >
            {[...new Set([view.timeZone, 'UTC', ...Intl.supportedValuesOf('timeZone')])].map((zone) => (
              <option key={zone}>{zone}</option>
            ))}
          </Select>
        )}
      </div>
      {view.zoned !== 'all' && (
        <p className="pt-1 text-sm soft">
          With its daylight saving. For a logger that is never set, choose UTC or a zone like Etc/GMT-1.
        </p>
      )}
    </fieldset>
  )
}

/** Whose each channel is. */
function Channels({
  view,
  chosen,
  onChange,
}: {
  view: BringLogView
  /** As it was said last, which the view may not know yet. */
  chosen: LogChannel[] | null
  onChange: (channels: LogChannel[]) => void
}) {
  const { data: rig } = useRigQuery()
  const codes = (rig?.positions ?? []).filter((p) => !p.archived && p.sensor).map((p) => p.code)
  const said = (channel: LogChannel): LogChannel => chosen?.find((c) => c.name === channel.name) ?? bare(channel)
  const put = (name: string, part: Partial<LogChannel>) =>
    onChange(view.channels.map((c) => (c.name === name ? { ...said(c), ...part } : said(c))))
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">Whose is what?</legend>
      <ul className="clear-both">
        {view.channels.map((channel) => {
          const { name, readings, first, problem } = channel
          const { position, unit, of } = said(channel)
          return (
            <li key={name} className="border-b border-base-300 py-2">
              <div className="flex flex-wrap items-end gap-x-6 gap-y-1">
                <span className="w-56 min-w-0 pb-2">
                  <span className="block font-bold break-words">{name}</span>
                  <span className="block text-sm soft">
                    {first === '' ? 'empty' : `first “${first.slice(0, 20)}”`}
                    {position && `, ${plural(readings, of)}`}
                  </span>
                </span>
                <Select
                  label={`Sensor of ${name}`}
                  value={position ?? ''}
                  onChange={(v) => put(name, { position: v === '' ? null : v })}
                >
                  <option value="">left out</option>
                  {codes.map((code) => (
                    <option key={code}>{code}</option>
                  ))}
                </Select>
                {position && (
                  <Select
                    label={`What ${name} is`}
                    value={of}
                    onChange={(v) => put(name, { of: v as LogPart, unit: '' })}
                  >
                    {LOG_PARTS.map((part) => (
                      <option key={part} value={part}>
                        {PART_WORDS[part]}
                      </option>
                    ))}
                  </Select>
                )}
                {position && (
                  <Select label={`Unit of ${name}`} value={unit} onChange={(v) => put(name, { unit: v })}>
                    <option value="">{of === 'temperature' ? '°C' : 'as its display'}</option>
                    {[...new Set([unit, ...(of === 'temperature' ? ['°F'] : UNITS)])].filter(Boolean).map((u) => (
                      <option key={u}>{u}</option>
                    ))}
                  </Select>
                )}
              </div>
              {problem && (
                <p role="alert" className="text-sm text-error">
                  {problem}
                </p>
              )}
            </li>
          )
        })}
      </ul>
    </fieldset>
  )
}

function Progress() {
  const { data } = useBringProgressQuery(undefined, { pollingInterval: 500 })
  return (
    <p role="status" className="py-4">
      {data && data.of > 0 ? `${fixed(data.done, 0)} of ${fixed(data.of, 0)} readings` : 'Reading the file …'}
    </p>
  )
}
