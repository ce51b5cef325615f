import { isElsewhere, type Mapping } from '@frustum/contract'
import { XMLBuilder } from 'fast-xml-parser'
import jsonPointer from 'jsonpointer'
import { rawOf } from './appearance.ts'
import type { StandInTransmitter } from './transmitter.ts'

/** A stand-in's sensor as a device has it that says by itself what it reads. */
export interface Told {
  transmitter: StandInTransmitter
  mapping: Mapping
}

/** Digits that such devices send. */
const DIGITS = 6

/** What a device says of one moment: field by field, under the names that its mapping has. */
export function fieldsOf({ transmitter, mapping }: Told): [field: string, value: number][] {
  const { shown, signal, temperature } = transmitter.read()
  const of = { value: shown, signal, temperature }
  return (['value', 'signal', 'temperature'] as const).flatMap((name): [string, number][] => {
    const channel = mapping[name]
    if (!channel || isElsewhere(channel)) return []
    return [[String(channel.at.field), Number(rawOf(of[name], channel).toPrecision(DIGITS))]]
  })
}

/** A tree of the fields of some sensors, by their pointers. */
function treeOf(told: readonly Told[]): object {
  const tree = {}
  for (const [field, value] of told.flatMap(fieldsOf)) jsonPointer.set(tree, field, value)
  return tree
}

export const jsonOf = (told: readonly Told[]): string => JSON.stringify(treeOf(told))

const builder = new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@', format: true })

export const xmlOf = (told: readonly Told[]): string => `<?xml version="1.0"?>\n${builder.build(treeOf(told))}`
