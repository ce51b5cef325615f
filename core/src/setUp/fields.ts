import { IONS, type IonCode } from '../chemistry/ions.ts'
import { REFERENCE_ELECTRODES } from '../electrode/referenceElectrodes.ts'
import { kindOf, modelOf, sensorKinds } from '../kinds/index.ts'
import type { DeviceSetting, OwnDisplay } from '../measurement/measurementModel.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import { WATER_KINDS, WATERS } from '../measurement/waters.ts'
import type { FieldSpec, FormValues } from '../procedures/step.ts'
import { celsius, say } from '../quantities/sentence.ts'
import { READER_CHOICES, USUAL_READER } from '../reader/reader.ts'
import { ROLES, type Role } from './roles.ts'

/** What can be entered of places, positions, devices and the rest, each thing once: forms, checks and the list of changes read it here. */

const name = (label: string): FieldSpec => ({ key: 'name', label, kind: 'text' })
const note: FieldSpec = { key: 'note', label: 'Note', kind: 'text', lines: true, optional: true }
const serial: FieldSpec = { key: 'serial', label: 'Serial number', kind: 'text', optional: true }
const temperature = (key: string, label: string): FieldSpec => ({
  key,
  label,
  kind: 'number',
  unit: '°C',
  low: 0,
  high: 100,
  decimals: 1,
  usualTemperature: 25,
})
const wholeDays = (key: string, label: string, low = 1): FieldSpec => ({
  key,
  label,
  kind: 'number',
  unit: 'days',
  low,
  high: 3650,
  decimals: 0,
})

export const SITE_FIELDS: readonly FieldSpec[] = [name('Name of the site')]

export const PERSON_FIELDS: readonly FieldSpec[] = [
  name('Name'),
  { key: 'initials', label: 'Initials', kind: 'text', optional: true },
  {
    key: 'role',
    label: 'Role, where people sign in',
    kind: 'choice',
    choices: Object.entries(ROLES).map(([value, label]) => ({ value, label })),
    usual: 'operator' satisfies Role,
    optional: true,
  },
  ...Object.entries(READER_CHOICES).map(
    ([key, { label, choices }]): FieldSpec => ({
      key,
      label,
      kind: 'choice',
      choices: Object.entries(choices).map(([value, words]) => ({ value, label: words })),
      usual: USUAL_READER[key as keyof typeof USUAL_READER],
      optional: true,
    }),
  ),
]

export const PLACE_FIELDS: readonly FieldSpec[] = [
  name('Name of the place'),
  { key: 'sortOrder', label: 'Place in lists', kind: 'number', low: 0, high: 9999, decimals: 0, usual: 0 },
  note,
]

export const TEMPLATE_FIELDS: readonly FieldSpec[] = [name('Name')]

/** What is asked of a new one: of which position it is kept. */
export const NEW_TEMPLATE_FIELDS: readonly FieldSpec[] = [
  ...TEMPLATE_FIELDS,
  { key: 'position', label: 'Kept from position number', kind: 'number', low: 1, high: 2 ** 31 - 1, decimals: 0 },
]

export const CONSUMABLE_FIELDS: readonly FieldSpec[] = [
  name('Name'),
  wholeDays('everyDays', 'Renewal interval'),
  { ...wholeDays('leadDays', 'Delivery time', 0), usual: 0 },
]

export const SENSOR_FIELDS: readonly FieldSpec[] = [
  { key: 'serialNumber', label: 'Serial number', kind: 'text', optional: true },
  { key: 'model', label: 'Type', kind: 'text', optional: true },
  { key: 'boughtOn', label: 'Bought on', kind: 'date', optional: true },
  { key: 'storage', label: 'Stored where, and in what', kind: 'text', optional: true },
  { ...wholeDays('keepsDays', 'Shelf life'), optional: true },
  { key: 'travels', label: 'Carried along to check others: offered where a sensor is compared', kind: 'tick' },
  note,
]

/** Ions of a standard of one salt; its strength follows from theirs. */
const SALT_IONS: readonly IonCode[] = ['chloride', 'nitrate', 'ammonium', 'potassium', 'sodium', 'fluoride']

/** Of a standard of the site's own, what may be put otherwise later. */
export const STANDARD_FIELDS: readonly FieldSpec[] = [
  { key: 'label', label: 'Name', kind: 'text' },
  { key: 'caution', label: 'Caution', kind: 'text', lines: true, optional: true },
]

/** What is asked of a new one: what its bottle says never changes, it is another standard when it does. */
export const newStandardFields = (): FieldSpec[] => [
  {
    key: 'kind',
    label: 'For',
    kind: 'choice',
    choices: sensorKinds()
      .filter((kind) => kindOf(kind).ownStandard)
      .map((value) => ({ value, label: kindOf(value).name })),
  },
  ...STANDARD_FIELDS.slice(0, 1),
  {
    key: 'values',
    label: 'Value on its label',
    kind: 'text',
    lines: true,
    hint: say`One value at ${celsius(25, 0)}, or a line for each temperature: 20 478.`,
  },
  {
    key: 'unit',
    label: 'In',
    kind: 'choice',
    choices: ['µS/cm', 'mS/cm'].map((value) => ({ value, label: value })),
    usual: 'µS/cm',
    when: { key: 'kind', is: ['conductivity'] },
  },
  {
    key: 'against',
    label: 'Its millivolts are those of',
    kind: 'choice',
    choices: [
      ...REFERENCE_ELECTRODES.map(({ code, label }) => ({ value: code, label })),
      { value: 'hydrogen', label: 'Against hydrogen (Eh)' },
    ],
    usual: 'agcl-3M',
    when: { key: 'kind', is: ['orp'] },
  },
  {
    key: 'ion',
    label: 'Ion',
    kind: 'choice',
    choices: SALT_IONS.map((value) => ({ value, label: IONS[value].label })),
    usual: 'chloride',
    when: { key: 'kind', is: ['ion'] },
  },
  {
    key: 'uncertainty',
    label: 'Good to ±',
    kind: 'number',
    low: 0.001,
    high: 100,
    decimals: 3,
    optional: true,
    hint: 'pH, mV, or % of a conductivity or concentration, as its label says; else what is usual.',
  },
  ...STANDARD_FIELDS.slice(1),
]

/** Largest tolerance that means anything, by the unit of errors; common practice, no source. */
const LARGEST_TOLERANCE: Readonly<Record<string, number>> = { pH: 2, '%': 50, mV: 300, 'mg/L': 100, '°C': 10 }

const CONSEQUENCES = [
  { value: '1', label: 'A nuisance' },
  { value: '2', label: 'A loss: product, crop, a batch' },
  { value: '3', label: 'Harm to livestock, people or the permit' },
]

/** Where a sensor stands and what is asked of it there. */
export function placingFields(spots: readonly string[] = []): FieldSpec[] {
  return [
    { key: 'code', label: 'Code on its label', kind: 'text' },
    { key: 'spot', label: 'Where exactly', kind: 'text', suggestions: spots, optional: true },
  ]
}

/**
 * The rules of a position: numbers as the device shows them, within what the kind can be.
 * @param device setting of the device, for unit and range of what it shows
 */
export function ruleFields(kind: SensorKind, device: DeviceSetting): FieldSpec[] {
  const { errorScale, shownRange, shownScale, quantity } = modelOf(kind)
  const { unit, decimals } = shownScale(device)
  const smallest = 10 ** -errorScale.decimals
  return [
    {
      key: 'processValue',
      label: `Usual ${quantity(device) === 'pH' ? 'pH' : quantity(device).toLowerCase()}`,
      kind: 'number',
      unit: unit === 'pH' ? '' : unit,
      ...shownRange(device),
      decimals,
      ...(unit === '°C' ? { usualTemperature: 25 } : {}),
    },
    temperature('processTemperature', 'Usual temperature'),
    {
      key: 'tolerance',
      label: 'Tolerance, ±',
      kind: 'number',
      unit: errorScale.unit,
      low: smallest,
      high: LARGEST_TOLERANCE[errorScale.unit] ?? 1e4 * smallest,
      decimals: errorScale.decimals,
      ...(errorScale.unit === '°C' ? { isTemperatureDifference: true } : {}),
    },
    { ...wholeDays('startingDays', 'At first every'), optional: true },
    wholeDays('floorDays', 'Never sooner than', 0),
    wholeDays('ceilingDays', 'Never later than'),
    {
      key: 'reliability',
      label: 'Sure to be within',
      kind: 'number',
      unit: '%',
      low: 50,
      high: 99.9,
      decimals: 1,
      usual: 95,
    },
    { key: 'consequence', label: 'What a wrong reading does here', kind: 'choice', choices: CONSEQUENCES },
    { ...wholeDays('spareLeadDays', 'An ordered spare takes', 0), usual: 21 },
    { key: 'cautions', label: 'Cautions before each visit, a line each', kind: 'text', lines: true, optional: true },
  ]
}

/** What the permit says, what shares a body or a water, and what else is to be known. */
export function standingFields(bodies: readonly string[] = [], waters: readonly string[] = []): FieldSpec[] {
  return [
    {
      key: 'waterKind',
      label: 'Kind of water',
      kind: 'choice',
      optional: true,
      choices: WATER_KINDS.map((value) => ({ value, label: WATERS[value].label })),
    },
    { key: 'authorityRule', label: 'Rule of a permit or an authority', kind: 'text', optional: true },
    { ...wholeDays('authorityDays', 'It asks for a visit at least every'), optional: true },
    {
      key: 'body',
      label: 'Shares its body with',
      kind: 'text',
      optional: true,
      suggestions: bodies,
      hint: 'Sensors of one body share a reference: if it fails, all of them move together. Give them the same word.',
    },
    {
      key: 'water',
      label: 'Stands in the same water as',
      kind: 'text',
      optional: true,
      suggestions: waters,
      hint: 'Sensors of one water should agree: they are compared, and one that parts is named. Same word for each.',
    },
    {
      key: 'keepSeconds',
      label: 'Longest time between kept readings',
      kind: 'number',
      unit: 's',
      low: 10,
      high: 3600,
      decimals: 0,
      usual: 60,
      hint: 'What moves by more than a step of its display is kept in any case, every 10 s at most.',
    },
    { key: 'sortOrder', label: 'Place in lists', kind: 'number', low: 0, high: 9999, decimals: 0, usual: 0 },
    note,
  ]
}

/** What a device shows and takes; `signal` where one of its sensors has a signal that a display can show. */
export function deviceFields(kinds: readonly SensorKind[]): FieldSpec[] {
  const ofKinds = kinds.map(kindOf)
  const shows = [
    { value: 'value', label: 'the finished value' },
    { value: 'signal', label: 'value and millivolts' },
  ]
  return [
    ...(ofKinds.some((k) => k.signalDisplay)
      ? [{ key: 'shows', label: 'The display shows', kind: 'choice', choices: shows } satisfies FieldSpec]
      : []),
    {
      key: 'adjustsBy',
      label: 'It is calibrated by',
      kind: 'choice',
      choices: [
        { value: 'key', label: 'a key of its own: it does the arithmetic' },
        { value: 'numbers', label: 'numbers keyed in (slope, zero, factor)' },
        { value: 'nothing', label: 'nothing: it takes no calibration' },
      ],
    },
    {
      key: 'calibrationKey',
      label: 'What the key is called',
      kind: 'text',
      usual: 'CAL',
      when: { key: 'adjustsBy', is: ['key'] },
    },
    {
      key: 'whileCalibrating',
      label: 'While it calibrates it shows',
      kind: 'choice',
      usual: 'value',
      choices: [
        { value: 'value', label: 'the value' },
        { value: 'word', label: 'only a word or a count' },
      ],
      when: { key: 'adjustsBy', is: ['key'] },
    },
    ...settingFields(kinds),
  ]
}

/** What is set on a device for its sensors, each kind once. */
export const settingFields = (kinds: readonly SensorKind[]): FieldSpec[] =>
  [...new Set(kinds)].flatMap((kind) => [...(kindOf(kind).setting?.fields ?? []), decimalsField(kind)])

/** Of a device with several sensors each says which it is. */
const keyOf = (kind: SensorKind, part: keyof OwnDisplay): string => `${kind}-${part}`

const decimalsField = (kind: SensorKind): FieldSpec => ({
  key: keyOf(kind, 'decimals'),
  label: `${kindOf(kind).name} is shown to`,
  kind: 'choice',
  choices: [
    { value: 'usual', label: 'as many digits as usual' },
    ...['1', '0.1', '0.01', '0.001', '0.0001'].map((step, digits) => ({ value: String(digits), label: step })),
  ],
  usual: 'usual',
  optional: true,
})

/** What else may be noted of a device: what it can show, what its output means, where its temperature comes from. */
export function displayFields(kinds: readonly SensorKind[], setting: DeviceSetting): FieldSpec[] {
  const plain = { ...setting, displays: {} }
  return [
    ...[...new Set(kinds)].flatMap((kind) => {
      const { name, model } = kindOf(kind)
      const { unit } = model.shownScale(plain)
      const field = (part: keyof OwnDisplay, label: string, row: string): FieldSpec => ({
        key: keyOf(kind, part),
        label,
        kind: 'number',
        unit: unit === 'pH' ? '' : unit,
        ...model.shownRange(plain),
        decimals: 4,
        optional: true,
        row: `${name}: ${row}`,
      })
      return [
        field('low', 'From', 'can show'),
        field('high', 'To', 'can show'),
        field('at4', '4 mA are', 'output'),
        field('at20', '20 mA are', 'output'),
      ]
    }),
    {
      key: 'temperatureFrom',
      label: 'The temperature it computes with is',
      kind: 'choice',
      choices: [
        { value: 'measured', label: 'measured, by a sensor of its own' },
        { value: 'fixed', label: 'set by hand, whatever the water has' },
      ],
      usual: 'measured',
      optional: true,
    },
    { ...temperature('fixedTemperature', 'It is set to'), when: { key: 'temperatureFrom', is: ['fixed'] } },
  ]
}

/** What is printed on a device. */
export const LABEL_FIELDS: readonly FieldSpec[] = [
  name('Name of the device'),
  { key: 'location', label: 'Where it hangs', kind: 'text', optional: true },
  serial,
  { key: 'firmware', label: 'Firmware', kind: 'text', optional: true },
  { key: 'photo', label: 'Photo of its display or its label', kind: 'photo', optional: true },
  note,
]

/** What stands in the fields of a device's setting, and what they set. */
export const settingValues = (kinds: readonly SensorKind[], setting: DeviceSetting): FormValues =>
  Object.assign(
    {},
    ...kinds.map((kind) => ({
      ...kindOf(kind).setting?.valuesOf(setting),
      [keyOf(kind, 'decimals')]: String(setting.displays?.[kind]?.decimals ?? 'usual'),
    })),
  )

/** @param before what is set already, for other kinds and of what the form does not ask */
export const settingOf = (
  kinds: readonly SensorKind[],
  values: FormValues,
  before: DeviceSetting = {},
): DeviceSetting => {
  const { displays: known = {}, ...rest } = before
  const displays = { ...known }
  for (const kind of kinds) {
    const { decimals: _, ...display } = known[kind] ?? {}
    const digits = String(values[keyOf(kind, 'decimals')] ?? 'usual')
    putDisplay(displays, kind, /^\d$/.test(digits) ? { ...display, decimals: Number(digits) } : display)
  }
  return Object.assign(
    { ...rest, ...(Object.keys(displays).length > 0 ? { displays } : {}) },
    ...kinds.map((kind) => kindOf(kind).setting?.settingOf(values) ?? {}),
  )
}

/** Where nothing is noted of a kind, nothing stands. */
function putDisplay(displays: Record<string, OwnDisplay>, kind: SensorKind, own: OwnDisplay): void {
  if (Object.keys(own).length > 0) displays[kind] = own
  else delete displays[kind]
}

const PARTS = ['low', 'high', 'at4', 'at20'] as const

/** What stands in the fields of a device's display and output; null where nothing is noted. */
export function displayValues(kinds: readonly SensorKind[], setting: DeviceSetting) {
  const { fixedTemperature = null, displays = {} } = setting
  return {
    ...Object.fromEntries(
      kinds.flatMap((kind) => PARTS.map((part) => [keyOf(kind, part), displays[kind]?.[part] ?? null] as const)),
    ),
    temperatureFrom: fixedTemperature === null ? 'measured' : 'fixed',
    fixedTemperature,
  }
}

/** The setting with what those fields say. */
export function withDisplay(
  kinds: readonly SensorKind[],
  values: Readonly<Record<string, unknown>>,
  { fixedTemperature: _, displays: before = {}, ...setting }: DeviceSetting,
): DeviceSetting {
  const displays = { ...before }
  for (const kind of kinds) {
    const { decimals } = before[kind] ?? {}
    const given = PARTS.flatMap((part) => {
      const value = values[keyOf(kind, part)]
      return typeof value === 'number' ? [[part, value] as const] : []
    })
    putDisplay(displays, kind, { ...(decimals === undefined ? {} : { decimals }), ...Object.fromEntries(given) })
  }
  const { temperatureFrom, fixedTemperature } = values
  return {
    ...setting,
    ...(Object.keys(displays).length > 0 ? { displays } : {}),
    ...(temperatureFrom === 'fixed' && typeof fixedTemperature === 'number' ? { fixedTemperature } : {}),
  }
}

/**
 * What is wrong with what is noted of a display, by the key of the field.
 * @param values as `displayValues` gives them
 */
export function displayProblems(
  kinds: readonly SensorKind[],
  values: Readonly<Record<string, unknown>>,
): Readonly<Record<string, string>> {
  const problems: Record<string, string> = {}
  for (const kind of kinds) {
    const [low, high, at4, at20] = PARTS.map((part) => values[keyOf(kind, part)] ?? null)
    if (typeof low === 'number' && typeof high === 'number' && low >= high) {
      problems[keyOf(kind, 'high')] = 'More than where it begins.'
    }
    if ((at4 === null) !== (at20 === null)) problems[keyOf(kind, at4 === null ? 'at4' : 'at20')] = 'Both ends, or none.'
    if (typeof at4 === 'number' && at4 === at20) problems[keyOf(kind, 'at20')] = 'Another value than at 4 mA.'
  }
  return problems
}

/**
 * A code that is free: initials of the place, short of the kind, the next number.
 * @param taken codes in use, also those of before
 * @example proposedCode('Fish room', 'ph', ['FR-pH-1']) // 'FR-pH-2'
 */
export function proposedCode(place: string, kind: SensorKind, taken: readonly string[]): string {
  return numbered(`${[initialsOf(place), kindOf(kind).short].filter((part) => part !== '').join('-')}-`, taken)
}

/**
 * Returns a free code for a copy: the original's with the next number, and the initials of the copy's place.
 * @param taken codes in use, and earlier ones
 * @example copiedCode('BR-SG-1', { from: 'Back room', to: 'Grow room 2' }, []) // 'GR2-SG-1'
 */
export function copiedCode(code: string, { from, to }: { from: string; to: string }, taken: readonly string[]): string {
  const unnumbered = code.trim().replace(/\d+$/, '')
  const stem = /[-. ]$/.test(unnumbered) ? unnumbered : `${unnumbered}-`
  const [was, is] = [`${initialsOf(from)}-`, `${initialsOf(to)}-`]
  const isNamedByPlace = was.length > 1 && is.length > 1 && codeKey(stem).startsWith(codeKey(was))
  return numbered(isNamedByPlace ? is + stem.slice(was.length) : stem, taken)
}

const initialsOf = (place: string): string =>
  place
    .split(/[^\p{L}\p{N}]+/u)
    .map((word) => word.charAt(0).toUpperCase())
    .join('')
    .slice(0, 3)

function numbered(stem: string, taken: readonly string[]): string {
  const used = new Set(taken.map(codeKey))
  let number = 1
  while (used.has(codeKey(`${stem}${number}`))) number++
  return `${stem}${number}`
}

/** Codes that differ in case only are the same. */
export const codeKey = (code: string): string => code.trim().toLowerCase()
