import type { Mapping, ProtocolField } from '@frustum/contract'
import { mixed, object, string } from 'yup'
import type { MappingScheme } from '../protocol.ts'
import { type FieldMapping, MESSAGE_FORMATS, type MessageFormat } from './message.ts'

const place = object({ topic: string().max(500), field: string().max(500).default('') }).noUnknown()

const FORMAT_NAMES: Record<MessageFormat, string> = {
  number: 'Plain number',
  json: 'JSON',
  senml: 'SenML',
  xml: 'XML',
  csv: 'CSV',
  line: 'Line protocol',
}

/** How a field is named, by format. A plain number has none. */
const FIELD_EXAMPLES: Readonly<Partial<Record<MessageFormat, string>>> = {
  json: '/water/ph',
  senml: 'ph',
  xml: '/status/ph',
  csv: 'heading',
  line: 'tank/ph',
}

/** SenML and the line protocol name the time by themselves. */
const TIMED: readonly MessageFormat[] = ['json', 'xml', 'csv']
export const isTimed = (format: MessageFormat): boolean => TIMED.includes(format)

const FORMAT = 'mapping.format'
const topic: ProtocolField = { key: 'at.topic', label: 'topic', kind: 'text', optional: true, hint: 'topic' }
const fields = (formats: readonly MessageFormat[]): ProtocolField[] =>
  formats.flatMap((format) => {
    const example = FIELD_EXAMPLES[format]
    return example === undefined
      ? []
      : [{ key: 'at.field', label: 'field', kind: 'text', hint: example, when: { key: FORMAT, is: [format] } }]
  })

const example = (format: MessageFormat, value: string, temperature: string): FieldMapping => ({
  format,
  value: { at: { field: value }, unit: '', scale: 1, offset: 0 },
  temperature: { at: { field: temperature }, unit: '', scale: 1, offset: 0 },
})

interface Messages {
  formats: readonly MessageFormat[]
  /** Messages come under topics. */
  topics?: boolean
  status: MappingScheme['form']['status']
}

/** What all schemes of fields share. */
export const FIELDS: Pick<MappingScheme, 'placeText' | 'sendsStatus'> = {
  placeText: ({ topic: under, field }) => [under, field].filter(Boolean).join(' ') || 'payload',
  sendsStatus: true,
}

/** Fields of messages, in the formats that come over a protocol. */
export const fieldScheme = ({ formats, topics = false, status }: Messages): MappingScheme => ({
  family: 'messages',
  place,
  options: {
    // Mappings of before had it whatever they read.
    countsFrom: mixed(),
    format: mixed<MessageFormat>().oneOf([...MESSAGE_FORMATS]),
    time: place.default(undefined),
  },
  writable: null,
  ...FIELDS,
  profiles: () => [
    { name: 'JSON, value and temperature', mapping: example('json', '/value', '/temperature') },
    { name: 'SenML, value and temperature', mapping: example('senml', 'value', 'temperature') },
  ],
  form: {
    options: [
      {
        key: FORMAT,
        label: 'Message format',
        kind: 'choice',
        usual: 'json',
        choices: formats.map((value) => ({ value, label: FORMAT_NAMES[value] })),
      },
      {
        key: 'mapping.time.field',
        label: 'Time field',
        kind: 'text',
        optional: true,
        when: { key: FORMAT, is: TIMED },
      },
    ],
    place: [...(topics ? [topic] : []), ...fields(formats)],
    status,
    parameter: null,
    hold: null,
  },
})

/** The mapping of a sensor that is read from messages. */
export const fieldMapping = (mapping: Mapping): FieldMapping => mapping as FieldMapping
