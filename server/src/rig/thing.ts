import type { FieldSpec, FormValues, Sentence } from '@frustum/core'
import type { Values, Words } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import type { Installed } from '../sensors.ts'

/** A place, position, device or whatever else can be changed, as its form and its list of changes need it. */
export interface Thing {
  id: number | null
  /** What it is called now. */
  title: string
  fields: readonly FieldSpec[]
  /** What is said of it beside its fields, since it never changes. */
  says?: Sentence
  /** Its fields as they are stored. */
  stored: Values
  /** The same as they stand in the form. */
  shown: Readonly<Record<string, string | boolean>>
  /** What a form that was read makes of them. */
  read(values: FormValues): Values
  words: Words
  archived: boolean
  /** Why it cannot be deleted: it has records, or others rest on it. Null where nothing does. */
  keptFor: string | null
  /** What has to be ended before it is archived. */
  inTheWay: { message: string; hint: string } | null
  /** What of a form does not go together, by field; a change that is taken back may leave it for a moment. */
  together?(after: Values): Readonly<Record<string, string>>
  /** Refuses what cannot be. @throws Problem */
  check?(tx: Transaction, after: Values): Promise<void>
  /** The fields of a change since which a sensor there takes another course. */
  turning?(after: Values): string[]
  /** A sensor as it would be after a change; null where the change does not concern it. */
  changed?(after: Values, installed: Installed): Installed | null
  save(tx: Transaction, values: Values): Promise<void>
  archive?(tx: Transaction, at: Date | null): Promise<void>
  delete?(tx: Transaction): Promise<void>
}

/** Finds one by its number; null where there is none. */
export type Finder = (db: Database | Transaction, id: number) => Promise<Thing | null>

/** A stored number as it stands in a form: to as many figures as anybody typed. */
export const typedText = (value: number): string => String(Number(value.toPrecision(7)))

/** Stored values as they stand in a form, where both are the same. */
export const plainShown = (stored: Values): Record<string, string | boolean> =>
  Object.fromEntries(
    // What a sensor is read by has a page of its own.
    Object.entries(stored)
      .filter(([key]) => key !== 'mapping' && key !== 'line')
      .map(([key, value]) => [
        key,
        typeof value === 'boolean' ? value : typeof value === 'number' ? typedText(value) : (value ?? ''),
      ]),
  )

/** What a form says of fields that are stored as they are typed: text that is left out is empty, a number none. */
export const plainRead = (fields: readonly FieldSpec[], values: FormValues): Values =>
  Object.fromEntries(
    fields.map(({ key, kind }) => [key, values[key] ?? (kind === 'tick' ? false : kind === 'number' ? null : '')]),
  )
