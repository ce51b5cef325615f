import {
  CHANNELS,
  type Channel,
  type ChannelName,
  formText,
  isAskedOf,
  type LineView,
  type Mapping,
  type MappingForm,
  type MappingOptions,
  type Protocol,
  type ProtocolField,
  type ProtocolForm,
  sentValue,
} from '@frustum/contract'
import { get, set, type UseFormReturn } from 'react-hook-form'
import type { FormTexts } from '../bench/formTexts.ts'

/**
 * The form of a sensor's connection. Its values have the shape of what is sent, every leaf as text: `settings.host`,
 * `address.unit`, `mapping.value.at.address`.
 */
export type LineForm = UseFormReturn<FormTexts>
/** What reads and writes its values. */
export type FormValues = Pick<LineForm, 'getValues' | 'setValue'>
type Values = Readonly<Record<string, unknown>>

export const NEW = 'new'

/** The connection of a sensor, and what each protocol asks for. */
export type Line = LineView & { protocols: readonly ProtocolForm[] }

/** Puts a text, or all texts below a path, into the form. */
export const put = (form: FormValues, path: string, value: unknown): void => form.setValue(path, value as string)

const optional = (key: string, label: string): ProtocolField => ({ key, label, kind: 'number', optional: true })

/** What every channel has besides its place. */
export const CHANNEL_FIELDS = {
  scale: { ...optional('scale', 'scale'), usual: '1' },
  offset: { ...optional('offset', 'Offset'), usual: '0' },
  low: optional('low', 'Lowest'),
  high: optional('high', 'Highest'),
  none: { key: 'none', label: 'No reading at', kind: 'text', list: true, optional: true, hint: '9999, 0x8000' },
  unit: { key: 'unit', label: 'unit', kind: 'text', optional: true },
  at4: { ...optional('span.at4', 'Value at 4 mA'), when: { key: 'unit', is: ['mA'] } },
  at20: { ...optional('span.at20', 'Value at 20 mA'), when: { key: 'unit', is: ['mA'] } },
  spanUnit: { key: 'span.unit', label: 'Unit', kind: 'text', optional: true, when: { key: 'unit', is: ['mA'] } },
} as const satisfies Record<string, ProtocolField>

/** Fields of a row, which is below a path. Options of the whole mapping keep their path. */
export const inRow = (row: string, fields: readonly ProtocolField[]): ProtocolField[] => {
  const below = (key: string) => (key.startsWith('mapping.') ? key : `${row}.${key}`)
  return fields.map((field) => ({
    ...field,
    key: below(field.key),
    ...(field.when ? { when: { ...field.when, key: below(field.when.key) } } : {}),
  }))
}

/** What is in a field, or its default before anything is. */
const textIn = (values: Values, { key, usual = '' }: ProtocolField): unknown => get(values, key) ?? usual

/** Fields that are asked for now. */
export const asked = (fields: readonly ProtocolField[], values: Values): ProtocolField[] =>
  fields.filter((field) =>
    isAskedOf(field, (path) =>
      textIn(values, fields.find(({ key }) => key === path) ?? { key: path, label: '', kind: 'text' }),
    ),
  )

/** The values of fields as they are sent, below the same paths. @throws UnreadableField */
function sent(fields: readonly ProtocolField[], values: Values): Record<string, unknown> {
  const body = {}
  for (const field of asked(fields, values)) {
    const value = sentValue(field, textIn(values, field))
    if (value !== undefined) set(body, field.key, value)
  }
  return body
}

const isBlank = (values: Values) => (field: ProtocolField) => String(textIn(values, field)).trim() === ''

/** Whether a row has a place: all that its place needs, and something where it needs nothing. */
export function isPlaced(row: string, place: readonly ProtocolField[], values: Values): boolean {
  const texts = asked(inRow(row, place), values).filter((field) => field.kind !== 'choice' && !field.advanced)
  const needed = texts.filter((field) => !field.optional)
  const own = inRow(row, [CHANNEL_FIELDS.unit])
  return needed.length > 0 ? !needed.some(isBlank(values)) : [...texts, ...own].some((field) => !isBlank(values)(field))
}

/** Rows that are mapped. A message that is one plain number has no field: it is the value unless another row is mapped. */
function placedRows({ place, options }: MappingForm, values: Values): ChannelName[] {
  const rows = CHANNELS.filter((name) => isPlaced(`mapping.${name}`, place, values))
  if (rows.some((name) => name === 'value' || name === 'signal')) return rows
  const needsPlace = asked([...options, ...inRow('mapping.value', place)], values).some(
    ({ key, kind, optional: may, advanced }) => key.includes('.at.') && kind !== 'choice' && !may && !advanced,
  )
  return needsPlace ? rows : ['value', ...rows]
}

function channelSent(row: string, place: readonly ProtocolField[], values: Values): Channel {
  const fields = [...inRow(row, place), ...inRow(row, Object.values(CHANNEL_FIELDS))]
  const { span, ...channel } = get(sent(fields, values), row, {}) as Channel & { span?: Partial<Channel['span']> }
  const isSpan = span?.at4 !== undefined && span.at20 !== undefined
  return { ...channel, at: channel.at ?? {}, ...(isSpan ? { span: span as NonNullable<Channel['span']> } : {}) }
}

/** The mapping in the form. @throws UnreadableField */
export function mappingOf(values: Values, form: ProtocolForm, parameters: readonly { key: string }[]): Mapping {
  const { options, place, status, parameter, hold } = form.mapping
  const mapping: Mapping = { ...(get(sent(options, values), 'mapping', {}) as Mapping) }
  const elsewhere = get(values, 'mapping.temperature.position')
  for (const name of placedRows(form.mapping, values)) mapping[name] = channelSent(`mapping.${name}`, place, values)
  if (elsewhere) mapping.temperature = { position: String(elsewhere) }
  const whole = (row: string, fields: readonly ProtocolField[]) =>
    isPlaced(
      row,
      fields.filter(({ key }) => key.startsWith('at.')),
      values,
    )
      ? (get(sent(inRow(row, fields), values), row) as NonNullable<Mapping['hold'] & Mapping['status']>)
      : undefined
  const there = whole('mapping.status', status.fields)
  if (there) mapping.status = there
  if (parameter) {
    const own = parameters.filter(({ key }) => isPlaced(`mapping.calibration.${key}`, parameter, values))
    if (own.length > 0) {
      mapping.calibration = Object.fromEntries(
        own.map(({ key }) => [key, channelSent(`mapping.calibration.${key}`, parameter, values)]),
      )
      mapping.writes = get(values, 'mapping.writes') === true
    }
  }
  const held = hold && whole('mapping.hold', hold)
  if (held) mapping.hold = held
  return mapping
}

/** Text for every leaf of something that is stored. */
function texts(stored: unknown): unknown {
  if (Array.isArray(stored)) return stored.join(', ')
  if (typeof stored !== 'object' || stored === null) return typeof stored === 'boolean' ? stored : String(stored ?? '')
  return Object.fromEntries(Object.entries(stored).map(([key, value]) => [key, texts(value)]))
}

export const mappingTexts = (mapping: Mapping): Record<string, unknown> => texts(mapping) as Record<string, unknown>

/** The fields of a form with what is stored, or with their defaults. */
export function fieldTexts(fields: readonly ProtocolField[], stored: Values): Record<string, unknown> {
  const values = {}
  for (const field of fields) set(values, field.key, formText(field, get(stored, field.key)))
  return values
}

/** What is in the form at first: what is stored, or the connection of the device's other sensors. */
export function startTexts(line: Line): Record<string, unknown> {
  const [first] = line.protocols as readonly [ProtocolForm]
  const connection = line.connectionId ?? line.connections[0]?.id
  const protocol = line.connections.find((c) => c.id === connection)?.protocol ?? first.key
  const form = line.protocols.find((p) => p.key === protocol) ?? first
  return {
    connection: connection === undefined ? NEW : String(connection),
    name: '',
    protocol: first.key,
    ...fieldTexts(first.settings, {}),
    ...fieldTexts(form.address, { address: line.address }),
    mapping: {
      ...(fieldTexts(form.mapping.options, {}).mapping as object),
      ...(line.mapping ? mappingTexts(line.mapping) : {}),
    },
  }
}

export const protocolOf = (line: Line, values: Values): ProtocolForm => {
  const chosen: Protocol =
    line.connections.find((c) => String(c.id) === values.connection)?.protocol ?? String(values.protocol)
  return line.protocols.find((p) => p.key === chosen) ?? (line.protocols[0] as ProtocolForm)
}

/** Which connection it is, and where the device is on it, as they are sent. @throws UnreadableField */
export function whereOf(values: Values, form: ProtocolForm) {
  const { address = {} } = sent(form.address, values) as { address?: Record<string, string | number | boolean> }
  if (values.connection !== NEW) return { connectionId: Number(values.connection), address, settings: {} }
  const { settings, secret } = settingsOf(values, form)
  const name = String(values.name ?? '').trim()
  return { ...(name ? { name } : {}), protocol: form.key, settings, ...(secret ? { secret } : {}), address }
}

/** Settings, and the secret apart from them. @throws UnreadableField */
export function settingsOf(values: Values, form: Pick<ProtocolForm, 'settings'>) {
  const { settings = {} } = sent(form.settings, values) as { settings?: Record<string, string | number | boolean> }
  const { secret, ...rest } = settings
  return { settings: rest, secret: secret as string | undefined }
}

/** Whether all that a protocol needs is there: otherwise there is nothing to ask yet. */
export const isComplete = (fields: readonly ProtocolField[], values: Values): boolean =>
  !asked(fields, values).some((field) => !field.optional && field.kind !== 'tick' && isBlank(values)(field))

export function setOptions(form: FormValues, options: MappingOptions): void {
  for (const [key, value] of Object.entries(options)) put(form, `mapping.${key}`, texts(value))
}

/** Puts a channel that was found into its row, counted as the form counts. */
export function takeChannel(
  form: FormValues,
  name: ChannelName,
  channel: Channel,
  { mapping }: ProtocolForm,
  options: MappingOptions = {},
): void {
  setOptions(form, options)
  const row = texts(channel) as { at: Record<string, string> }
  for (const { key, countsFrom } of mapping.place) {
    const place = key.replace(/^at\./, '')
    if (countsFrom && channel.at[place] !== undefined)
      row.at[place] = String(Number(channel.at[place]) + Number(form.getValues(countsFrom) || 0))
  }
  put(form, `mapping.${name}`, row)
  if (name === 'temperature') put(form, 'mapping.temperature.position', '')
}

/** Reads a longer way to write a place, as 40011, and fills in all that it says. */
export function expandShorthand(form: FormValues, row: string, { key, shorthands = [] }: ProtocolField): void {
  const typed = String(form.getValues(key) ?? '').trim()
  for (const { pattern, place, options } of shorthands) {
    const [, meant] = new RegExp(pattern).exec(typed) ?? []
    if (meant === undefined) continue
    for (const [path, value] of Object.entries(place)) put(form, `${row}.${path}`, value)
    for (const [path, value] of Object.entries(options)) put(form, path, value)
    put(form, key, String(Number(meant)))
  }
}

/** A further number of a device is mostly written as the others: their choices are copied to a row that is new. */
export function likeOthers(form: FormValues, name: ChannelName, { place }: MappingForm): void {
  const values = form.getValues()
  const other = CHANNELS.find((one) => one !== name && isPlaced(`mapping.${one}`, place, values))
  if (!other) return
  for (const { key, kind } of place) {
    const copied = get(values, `mapping.${other}.${key}`)
    if (kind === 'choice' && copied !== undefined) put(form, `mapping.${name}.${key}`, copied)
  }
}

/** The first message at or below a path of the form's errors. */
export function messageBelow(errors: unknown, path: string): string | undefined {
  const found = get(errors as object, path) as unknown
  const first = (one: unknown): string | undefined => {
    if (typeof one !== 'object' || one === null) return undefined
    if ('message' in one && typeof one.message === 'string') return one.message
    for (const value of Object.values(one)) {
      const message = first(value)
      if (message) return message
    }
    return undefined
  }
  return first(found)
}
