import { type BringOptions, type BringView, SENSOR_COLUMN_NAMES, SENSOR_COLUMNS } from '@frustum/contract'
import { WATER_KINDS, WATERS } from '@frustum/core'
import { useState } from 'react'
import { plural } from '../../components/format.ts'
import { useBringSensorsMutation } from '../../store/api.ts'
import { Choose, Columns, Looked, Rows, Save, Select, TakeIn, Taken } from './sheetParts.tsx'
import { useSheet } from './useSheet.ts'

const BEGIN: BringOptions = {
  sheet: 0,
  headingRow: null,
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

export function ListOfSensors() {
  const [bring, { isLoading }] = useBringSensorsMutation()
  const sheet = useSheet<BringOptions, BringView>(BEGIN, bring)
  const { view, options, change } = sheet
  return (
    <section aria-label="A list of sensors">
      <h2 className="pt-4 text-lg">A list of your sensors</h2>
      <p className="max-w-prose pb-3">
        CSV or XLSX with one heading row, a sensor a row. Only what it measures must be there; the rest is what is usual
        in its water. You see what becomes of each row before anything is written.
      </p>
      <Choose sheet={sheet} busy={isLoading}>
        <Save text={TEMPLATE} name="sensors.csv">
          A template to fill in
        </Save>
      </Choose>
      {view && view.taken !== null && (
        <Taken view={view} what={plural(view.taken, 'sensor')} report="sensors-report.csv" labels={SENSOR_COLUMNS} />
      )}
      {view && view.taken === null && (
        <>
          <Columns view={view} known={SENSOR_COLUMNS} onChange={change} />
          <ForAll options={options} onChange={change} />
          <Looked view={view} one="sensor" />
          <Rows view={view} labels={SENSOR_COLUMNS} />
          <TakeIn sheet={sheet} view={view} one="sensor" busy={isLoading} />
        </>
      )}
    </section>
  )
}

/** What holds for every row that does not say it itself. */
function ForAll({ options, onChange }: { options: BringOptions; onChange: (part: Partial<BringOptions>) => void }) {
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
