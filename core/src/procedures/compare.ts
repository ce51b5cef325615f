import { compareResults } from '../judgement/agreement.ts'
import { findStaleInstrument } from '../measurement/instrument.ts'
import { likelihood, quantity, type Sentence, say } from '../quantities/sentence.ts'
import { findingsOfInstruments } from './assess.ts'
import type { Assessment, Observation, Procedure, VisitState } from './procedure.ts'
import type { FieldSpec } from './step.ts'
import { verdict } from './steps.ts'
import { displayed, shownQuantity } from './words.ts'

/** A comparison without any calibration: with the twin in the same water, a hand meter, a sample. */

const MOST_OTHERS = 3

/** Twins first, then what is typed. */
function fields(e: VisitState): FieldSpec[] {
  const { unit, decimals } = e.model.shownScale(e.setup.device)
  const usual = 10 ** -decimals * 5
  return Array.from({ length: MOST_OTHERS }, (_, i): FieldSpec[] => {
    const twin = e.setup.twins[i]
    const row = twin ? twin.position : `Other ${i + 1 - e.setup.twins.length}`
    const instrument: FieldSpec[] = twin
      ? []
      : [
          {
            key: `instrument${i}`,
            label: 'Read with',
            kind: 'instrument',
            row,
            optional: true,
            instruments: ['hand-meter', 'kit', 'thermometer'],
            statesUncertainty: { key: `uncertainty${i}`, unit },
          },
        ]
    const number = { kind: 'number', unit, decimals, row, optional: i > 0 } as const
    return [
      {
        ...number,
        key: `value${i}`,
        label: 'Reads',
        low: -1e6,
        high: 1e6,
        ...(twin ? { usual: twin.value } : {}),
      },
      {
        ...number,
        key: `uncertainty${i}`,
        label: 'Good to ±',
        low: 10 ** -decimals / 10,
        high: 1e6,
        usual: twin?.uncertainty ?? usual,
      },
      ...instrument,
    ]
  }).flat()
}

interface Compared {
  name: string
  value: number
  uncertainty: number
  /** Of a sensor of the site: how likely it is out by its own drift. */
  outside?: number | undefined
  /** Set for a sensor of the site. */
  position?: string
  /** An instrument whose own calibration is too old to be believed. */
  stale?: boolean
}

function others(e: VisitState): Compared[] {
  const form = e.forms.others?.values
  if (!form) return []
  return Array.from({ length: MOST_OTHERS }, (_, i) => ({
    ...nameOf(e, i),
    value: Number(form[`value${i}`] ?? Number.NaN),
    uncertainty: Number(form[`uncertainty${i}`] ?? Number.NaN),
  })).filter((o) => Number.isFinite(o.value) && Number.isFinite(o.uncertainty))
}

function nameOf(
  { setup: { twins }, forms: { others: form } }: VisitState,
  i: number,
): Omit<Compared, 'value' | 'uncertainty'> {
  const twin = twins[i]
  if (twin) return { name: twin.position, position: twin.position, outside: twin.outside }
  const instrument = form?.instruments?.[`instrument${i}`]
  if (!instrument) return { name: `other ${i + 1 - twins.length}` }
  return { name: instrument.name, stale: findStaleInstrument(instrument, form?.at ?? 0)?.severity === 'warn' }
}

/** A sensor this likely out by its own drift is the odd one where two disagree (common practice, no source). */
const SURELY_OUT = 0.95

/** The one that is out of line: by the others, or by what is known of its own drift. */
function oddOf(all: readonly Compared[], odd: number | null): Compared | null {
  if (odd !== null) return all[odd] ?? null
  const out = all.filter((o) => (o.outside ?? 0) > SURELY_OUT)
  return out.length === 1 ? (out[0] as Compared) : null
}

/** Which one to look at first where nobody can tell: what is stale itself, else the sensor that is likelier out. */
const likeliest = (all: readonly Compared[]): Compared =>
  all.find((o) => o.stale) ?? ([...all].sort((a, b) => (b.outside ?? 0) - (a.outside ?? 0))[0] as Compared)

/** How far a reading of this sensor may be off by its own forecast: half the tolerance, as displayed. */
function ownUncertainty(e: VisitState): number {
  const { model, setup } = e
  const reading = e.readings.moment
  if (!reading) return setup.tolerance
  const value = model.valueOf(reading.signal, reading.temperature, setup.activeCalibration, setup.device)
  const shift = model.errorScale.unit === '%' ? (value * setup.tolerance) / 200 : setup.tolerance / 2
  const at = (v: number) =>
    model.toShown(
      model.signalOf(v, reading.temperature, setup.activeCalibration, setup.device),
      reading.temperature,
      setup.activeCalibration,
      setup.device,
    )
  return Math.max(10 ** -model.shownScale(setup.device).decimals, Math.abs(at(value + shift) - at(value)))
}

function judge(e: VisitState): Assessment | null {
  const reading = e.readings.moment
  const list = others(e)
  if (!reading || list.length === 0) return null
  const mine: Compared = {
    name: e.setup.position,
    position: e.setup.position,
    value: displayed(e, reading),
    uncertainty: ownUncertainty(e),
    outside: e.setup.outside,
  }
  const all = [mine, ...list]
  const agreement = compareResults(all)
  const named = all
    .map((o) => say`${o.name} ${shownQuantity(e, o.value)}`)
    .reduce<Sentence>((line, one) => (line === '' ? one : say`${line}, ${one}`), '')
  const odd = agreement.agree ? null : oddOf(all, agreement.odd)
  const known = odd !== null && agreement.odd === null
  const first = odd ?? likeliest(all)
  // What the readings show outweighs a forecast: it is stated only where it tells which one is off.
  const bothOut = all.filter((o) => (o.outside ?? 0) > 0.5).length > 1
  const byDrift = !agreement.agree && agreement.odd === null && (known || bothOut)
  const figures = all.map((o) => ({
    label: o.name,
    value: shownQuantity(e, o.value),
    note: say`± ${shownQuantity(e, o.uncertainty)}${byDrift && o.outside !== undefined ? say`, ${likelihood(o.outside)} likely out` : ''}${odd === o ? ', out of line' : ''}`,
  }))
  const why = known
    ? say`By its own drift it is out with ${likelihood(odd.outside ?? 0)}.`
    : 'The others agree without it.'
  const reason = agreement.agree
    ? say`They agree: ${named}. Difference: ${quantity(agreement.worst, '', 1)} of the expected uncertainty. Leave them alone.`
    : odd
      ? say`They disagree: ${named}. ${odd.name} is out of line. ${why}${odd === mine ? ' Calibrate this one.' : ''}`
      : bothOut
        ? say`They disagree: ${named}. By their own drift more than one is likely out: check ${first.name} in a fresh standard first.`
        : say`They disagree: ${named}. Nothing that is known tells which one is wrong: check ${first.name} in a fresh standard first.`
  return {
    figures,
    findings: agreement.agree
      ? findingsOfInstruments(e, 'others')
      : [
          ...findingsOfInstruments(e, 'others'),
          {
            code: 'results-disagree',
            severity: 'warn',
            sentence: odd ? `${odd.name} is out of line.` : 'They differ by more than their uncertainties allow.',
            advice: odd
              ? 'Check it in a fresh standard before you trust it again.'
              : `Check ${first.name} in a fresh standard first.`,
            numbers: { normalisedError: agreement.worst },
          },
        ],
    proposal: { decision: 'leave-alone', reason },
    choices: ['leave-alone', 'repeat'],
    names: {
      'leave-alone': agreement.agree ? 'Leave them alone' : 'Noted: they differ',
      repeat: 'Read both again',
    },
    ...(!agreement.agree && first.position ? { calibrate: first.position } : {}),
    found: null,
    asFoundError: null,
    errorNow: null,
    uncertainty: null,
    fouling: null,
  }
}

/** Only what knows better than this sensor's tolerance, and is fresh itself, says something of its error. */
function observe(e: VisitState): Observation | null {
  const reading = e.readings.moment
  const list = others(e).filter((o) => !o.stale)
  if (!reading || list.length === 0) return null
  const { model, setup } = e
  const best = [...list].sort((a, b) => a.uncertainty - b.uncertainty)[0] as Compared
  const core = (shown: number) =>
    model.valueOf(
      model.fromShown(shown, reading.temperature, setup.activeCalibration, setup.device),
      reading.temperature,
      setup.activeCalibration,
      setup.device,
    )
  const error = model.errorOf(core(displayed(e, reading)), core(best.value))
  const uncertainty = Math.abs(model.errorOf(core(best.value + best.uncertainty), core(best.value)))
  if (uncertainty > setup.tolerance || setup.twins.some((t) => t.position === best.name)) return null
  return { asFound: error, asLeft: error, verified: true, uncertainty, fouling: null, adjusted: false }
}

export const COMPARE: Procedure = {
  id: 'compare',
  name: 'Compare only',
  summary: 'Against the twin, a hand meter or a kit: do they agree, and which one is out of line?',
  needs: 'Hand meter or kit',
  pours: {},
  roles: [],
  version: 1,
  handsOnMinutes: 4,
  steps: (e) => [
    ...(e.kind.inPlace?.(e) ?? []),
    {
      key: 'moment',
      kind: 'capture',
      medium: 'process',
      freezes: true,
      short: 'This sensor',
      title: 'Freeze the reading at the moment you read the other',
      hint: 'Both in the same water, side by side, at the same moment.',
      main: 'Freeze reading',
      usualSkips: [],
      after: [],
    },
    {
      key: 'others',
      kind: 'form',
      pending: true,
      short: 'The others',
      title: 'What do the others read?',
      hint:
        e.setup.twins.length > 0
          ? 'The twin is filled in as it read when this began; change it if it moved since.'
          : '',
      main: 'Compare readings',
      usualSkips: [],
      after: ['moment'],
      fields: fields(e),
    },
    { ...verdict(['others', 'moment'], 'Do they agree?'), repeatFrom: 'moment' },
  ],
  judge: (e) => judge(e),
  observe,
}
