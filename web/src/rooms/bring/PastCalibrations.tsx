import {
  type BringPastOptions,
  type BringPastView,
  PAST_COLUMNS,
  PAST_QUESTIONS,
  type PastColumn,
  type PastQuestion,
} from '@frustum/contract'
import { plural } from '../../components/format.ts'
import { useBringPastMutation, useBringProgressQuery, useRigQuery } from '../../store/api.ts'
import { Choose, FoldedColumns, Looked, Rows, Save, Select, TakeIn, Taken } from './sheetParts.tsx'
import { useSheet } from './useSheet.ts'

const BEGIN: BringPastOptions = {
  sheet: 0,
  headingRow: null,
  sensor: null,
  columns: null,
  dateOrder: null,
  slopeIn: null,
  zeroIn: null,
  without: null,
  leaveOut: false,
  take: false,
}

/** Two rows that show how: readings alone, and what a device said of its sensor. */
const TEMPLATE = [
  'Date;Code;Standard 1;Before 1;After 1;Standard 2;Before 2;After 2;Temperature;Slope (%);Offset (mV);Calibrated;Who;Note',
  '2025-03-14;T1-pH-1;pH 7;7.06;7.00;pH 10;9.93;10.01;24;96.5;-3;yes;AF;',
  '2025-06-12;T1-pH-1;pH 7;7.03;;;;;24;;;no;AF;only looked at',
  '',
].join('\r\n')

/** What was written down before: it feeds forecast, health and end of life from the first day. */
export function PastCalibrations() {
  const [bring, { isLoading }] = useBringPastMutation()
  const sheet = useSheet<BringPastOptions, BringPastView>(BEGIN, bring)
  const { view, options, change } = sheet
  return (
    <section className="mt-8 border-t border-base-300" aria-label="Past calibrations">
      <h2 className="pt-4 text-lg">Past calibrations</h2>
      <p className="max-w-prose pb-3">
        What you wrote down of sensors that are here: CSV or XLSX with one heading row, a calibration or a standard a
        row, with as much as there is of date, sensor, standards, readings before and after, slope, zero, who, note. It
        becomes records that say so, and the next dates are computed from them at once.
      </p>
      <Choose sheet={sheet} busy={isLoading && !options.take}>
        <Save text={TEMPLATE} name="past-calibrations.csv">
          A template to fill in
        </Save>
      </Choose>
      {isLoading && options.take && <Progress />}
      {view && view.taken !== null && (
        <Taken
          view={view}
          what={plural(view.taken, 'visit')}
          report="past-calibrations-report.csv"
          labels={PAST_COLUMNS}
        />
      )}
      {view && view.taken === null && !(isLoading && options.take) && (
        <>
          <Questions view={view} sensor={options.sensor} onChange={change} />
          <FoldedColumns view={view} known={PAST_COLUMNS} onChange={change} />
          {view.asked.length === 0 && (
            <>
              <Looked view={view} one="row" />
              <Rows view={view} labels={PAST_COLUMNS} />
              <TakeIn sheet={sheet} view={view} one="row" busy={isLoading} />
            </>
          )}
        </>
      )}
    </section>
  )
}

const QUESTIONS = Object.keys(PAST_QUESTIONS) as PastQuestion[]

/** The column without which nobody has to ask. */
const ABOUT: Partial<Record<PastQuestion, PastColumn>> = { dateOrder: 'date', slopeIn: 'slope', zeroIn: 'zero' }

const NONE = '-'

interface QuestionsProps {
  view: BringPastView
  sensor: string | null
  onChange: (part: Partial<BringPastOptions>) => void
}

/** What can be read in two ways is asked; what the file tells by itself is shown, and may be said otherwise. */
function Questions({ view, sensor, onChange }: QuestionsProps) {
  const { data: rig } = useRigQuery()
  const isAbout = (question: PastQuestion) => {
    const column = ABOUT[question]
    return column === undefined || view.columns[column] != null
  }
  const because = new Map(view.asked.map((a) => [a.question, a.because]))
  const answer = (question: PastQuestion, value: string) =>
    onChange({ columns: view.columns, [question]: value === '' ? null : value })
  return (
    <fieldset className="mt-5 border-t border-base-300 pt-4">
      <legend className="float-left w-full pb-1 font-bold">How is it to be read?</legend>
      <div className="clear-both grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {view.someWithoutSensor && (
          <div className={because.has('sensor') ? 'border-l-4 border-warning pl-3' : ''}>
            <Select
              label="Sensor for rows without one"
              value={sensor ?? ''}
              onChange={(code) => onChange({ columns: view.columns, sensor: code === NONE ? '' : code })}
            >
              {sensor === null && <option value="">Choose</option>}
              {rig?.positions
                .filter((p) => !p.archived)
                .map((p) => (
                  <option key={p.id} value={p.code}>
                    {p.code}
                  </option>
                ))}
              <option value={sensor === '' ? '' : NONE}>None (leave these rows as errors)</option>
            </Select>
            {because.has('sensor') && <p className="pt-1 text-sm text-pretty">{because.get('sensor')}</p>}
          </div>
        )}
        {QUESTIONS.filter(isAbout).map((question) => (
          <div key={question} className={because.has(question) ? 'border-l-4 border-warning pl-3' : ''}>
            <Select
              label={PAST_QUESTIONS[question].label}
              value={view.answers[question] ?? ''}
              onChange={(value) => answer(question, value)}
            >
              <option value="">{because.has(question) ? 'Choose' : 'not needed'}</option>
              {Object.entries(PAST_QUESTIONS[question].choices).map(([value, label]) => (
                <option key={value} value={value}>
                  {label}
                </option>
              ))}
            </Select>
            {because.has(question) && <p className="pt-1 text-sm text-pretty">{because.get(question)}</p>}
          </div>
        ))}
      </div>
      {view.asked.length > 0 && (
        <p role="status" className="pt-4 text-lg font-bold">
          Answer {plural(view.asked.length, 'question')} to continue.
        </p>
      )}
    </fieldset>
  )
}

/** How often it is asked how far it has come, ms. */
const ASKED_EVERY = 400

function Progress() {
  const { data } = useBringProgressQuery(undefined, { pollingInterval: ASKED_EVERY })
  const known = data && data.of > 0 ? data : null
  return (
    <div className="pt-5" role="status">
      <p>{known ? `${known.done} of ${known.of} visits` : 'Reading the file …'}</p>
      <progress
        className="progress progress-primary mt-2 h-3 w-full max-w-xl"
        aria-label="How far it has come"
        {...(known ? { value: known.done, max: known.of } : {})}
      />
      <p className="pt-1 soft">All of it or nothing is taken in; others can go on meanwhile.</p>
    </div>
  )
}
