import type { Channel, Mapping, ProtocolField, ProtocolForm } from '@frustum/contract'
import { UnreadableField } from '@frustum/contract'
import { modelOf, type SensorKind, sensorKinds } from '@frustum/core'
import { get, set } from 'react-hook-form'
import { describe, expect, it } from 'vitest'
import { readMapping } from '../../server/src/connections/lines.ts'
import { protocolForm, protocolOf, protocols, schemeOf } from '../../server/src/devices/protocols/registry.ts'
import {
  asked,
  expandShorthand,
  type FormValues,
  inRow,
  isComplete,
  type Line,
  likeOthers,
  mappingOf,
  startTexts,
  takeChannel,
  whereOf,
} from '../../web/src/rooms/connections/lineForm.ts'

/** What a protocol says of itself, and what a page makes of it. */

const forms = await Promise.all(protocols().map(protocolForm))
const formOf = (key: string) => forms.find((f) => f.key === key) as ProtocolForm

const lineOf = (protocol: string, mapping: Mapping | null, kind: SensorKind = 'ph') =>
  ({
    kind,
    connectionId: 1,
    connections: [{ id: 1, name: 'It', protocol, hasSecret: false }],
    protocols: forms,
    address: {},
    mapping,
    parameters: modelOf(kind).parameters,
  }) as unknown as Line

const CHANNEL = { unit: '', scale: 1, offset: 0 }

describe('a mapping', () => {
  it.each(forms.map((f) => f.key))('of %s is the same after it was in the form, for every kind and profile', (key) => {
    const { mapping: scheme } = protocolOf(key)
    for (const kind of sensorKinds()) {
      for (const { name, mapping } of scheme.profiles(kind)) {
        const line = lineOf(key, mapping, kind)
        const back = mappingOf(startTexts(line), formOf(key), line.parameters)
        expect(readMapping(back, scheme), `${name}, ${kind}`).toEqual(readMapping(mapping, scheme))
        expect(schemeOf(back)?.family).toBe(scheme.family)
      }
    }
  })

  it('keeps limits, lists, a span, a temperature measured elsewhere, a status and a hold', () => {
    const at = { table: 'input', address: 7, type: 'int16', order: 'BADC' }
    const mapping: Mapping = {
      countsFrom: 1,
      value: {
        ...CHANNEL,
        at,
        unit: 'mA',
        scale: 0.001,
        low: -1.5,
        none: ['9999', '0x8000'],
        span: { at4: 0, at20: 14, unit: '' },
      },
      temperature: { position: 'CH-T-1' },
      status: { at: { table: 'coil', address: 3, type: 'uint16', order: 'ABCD' }, bits: [0, 3] },
      hold: { at: { table: 'holding', address: 40, type: 'uint16', order: 'ABCD' }, on: 1, off: 0 },
    }
    const scheme = protocolOf('modbus-tcp').mapping
    const back = mappingOf(startTexts(lineOf('modbus-tcp', mapping)), formOf('modbus-tcp'), [])
    expect(readMapping(back, scheme)).toEqual(readMapping(mapping, scheme))
    expect(readMapping(back, scheme)).toMatchObject(mapping)
  })

  it('of a plain number is the value, unless another row is mapped', () => {
    const values = startTexts(lineOf('http', null))
    set(values, 'mapping.format', 'number')
    expect(mappingOf(values, formOf('http'), [])).toMatchObject({ format: 'number', value: { at: {} } })
    set(values, 'mapping.signal.unit', 'mV')
    const signal = mappingOf(values, formOf('http'), [])
    expect([signal.value, signal.signal?.unit]).toEqual([undefined, 'mV'])
  })

  it('with what is no number names its field', () => {
    const values = startTexts(lineOf('modbus-tcp', null))
    set(values, 'mapping.value.at.address', '1O1')
    const read = () => mappingOf(values, formOf('modbus-tcp'), [])
    expect(read).toThrow(UnreadableField)
    expect(read).toThrow(expect.objectContaining({ path: 'mapping.value.at.address' }))
  })
})

describe('a form', () => {
  it('of a serial port is complete once its port is chosen, and sends numbers as numbers', () => {
    const line = { ...lineOf('modbus-serial', null), connections: [], connectionId: null }
    const values = { ...startTexts(line), protocol: 'modbus-serial', settings: { path: '', everyMs: '2.5' } }
    expect(isComplete(formOf('modbus-serial').settings, values)).toBe(false)
    values.settings.path = '/dev/ttyS9'
    expect(isComplete(formOf('modbus-serial').settings, values)).toBe(true)
    expect(whereOf(values, formOf('modbus-serial'))).toMatchObject({
      protocol: 'modbus-serial',
      settings: { path: '/dev/ttyS9', baud: 9600, stopBits: 1, parity: 'none', everyMs: 2500 },
    })
  })

  it('asks only for what depends on other fields, and keeps the secret apart', () => {
    const { settings } = formOf('http')
    const values = {
      protocol: 'http',
      connection: 'new',
      settings: { url: 'http://10.0.0.9/', auth: 'none', user: 'op', secret: 'x' },
    }
    expect(whereOf(values, formOf('http'))).toEqual({
      protocol: 'http',
      settings: { url: 'http://10.0.0.9/', auth: 'none' },
      address: {},
    })
    values.settings.auth = 'basic'
    expect(whereOf(values, formOf('http'))).toMatchObject({ secret: 'x', settings: { auth: 'basic', user: 'op' } })
    expect(asked(settings, values).map((f) => f.label)).toContain('Password')
    const rows = inRow('mapping.value', formOf('modbus-tcp').mapping.place)
    const labels = (table: string) => asked(rows, { mapping: { value: { at: { table } } } }).map((f) => f.label)
    expect(labels('coil')).toEqual(['table', 'address'])
    expect(labels('input')).toEqual(['table', 'address', 'type', 'byte order'])
  })

  it.each(forms)('of $name has unique labels, each with a key that its schema knows', ({ key, settings, address }) => {
    const { settings: settingsSchema, address: addressSchema } = protocolOf(key)
    const known = [...Object.keys(settingsSchema.fields), ...Object.keys(addressSchema.fields)]
    for (const field of [...settings, ...address]) {
      const own = field.key.replace(/^(settings|address)\./, '')
      expect([...known, 'secret'], field.label).toContain(own)
    }
    expect(new Set(settings.map((f) => f.label)).size).toBe(settings.length)
  })
})

describe('a row of the form', () => {
  const protocol = formOf('modbus-tcp')
  const addressField = inRow('mapping.value', protocol.mapping.place).find(({ shorthands }) => shorthands)

  const formFor = (mapping: Mapping | null = null) => {
    const values = startTexts(lineOf('modbus-tcp', mapping))
    return {
      getValues: (path?: string) => (path === undefined ? values : get(values, path)),
      setValue: (path: string, value: unknown) => void set(values, path, value),
    } as unknown as FormValues & { setValue(path: string, value: string): void }
  }

  it('takes 40011 as holding register 11, counted from 1', () => {
    const form = formFor()
    form.setValue('mapping.value.at.address', '40011')
    expandShorthand(form, 'mapping.value', addressField as ProtocolField)
    expect(mappingOf(form.getValues(), protocol, [])).toMatchObject({
      countsFrom: 1,
      value: { at: { table: 'holding', address: 11 } },
    })
  })

  it('leaves a plain address alone', () => {
    const form = formFor()
    form.setValue('mapping.value.at.address', '11')
    const before = JSON.stringify(form.getValues())
    expandShorthand(form, 'mapping.value', addressField as ProtocolField)
    expect(JSON.stringify(form.getValues())).toBe(before)
  })

  it('shows a channel that was found as the form counts, and sends it so', () => {
    const form = formFor()
    form.setValue('mapping.countsFrom', '1')
    form.setValue('mapping.temperature.position', 'CH-T-1')
    const at = { table: 'input', address: 7, type: 'int16', order: 'BADC' }
    takeChannel(form, 'temperature', { ...CHANNEL, at } as Channel, protocol)
    expect(form.getValues('mapping.temperature.at.address')).toBe('8')
    expect(mappingOf(form.getValues(), protocol, []).temperature).toMatchObject({ at: { ...at, address: 8 } })
  })

  it('starts as the other rows are written', () => {
    const at = { table: 'input', address: 7, type: 'int16', order: 'BADC' }
    const form = formFor({ countsFrom: 0, value: { ...CHANNEL, at } })
    likeOthers(form, 'temperature', protocol.mapping)
    form.setValue('mapping.temperature.at.address', '9')
    expect(mappingOf(form.getValues(), protocol, []).temperature).toMatchObject({ at: { ...at, address: 9 } })
  })
})
