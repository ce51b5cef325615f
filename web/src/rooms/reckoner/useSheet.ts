import { OutOfRange } from '@frustum/core'
import {
  computeSheet,
  Given,
  type GivenField,
  type NumberField,
  readQuantity,
  type Sheet,
  type SheetResult,
  show,
} from '@frustum/core/reckoner'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'

/** What stands in the fields of a sheet, as typed. */
export interface Entries {
  /** Of the given fields, by id. */
  given: Record<string, string>
  /** The linked field that is held, and what is typed there. */
  held: string | null
  heldText: string
}

export interface SheetState {
  entries: Entries
  /** null while something entered cannot be used. */
  result: SheetResult | null
  /** The last result there was: shown greyed while there is none. An example where there never was one. */
  shown: SheetResult | null
  /** What the greyed result is. */
  staleness: 'as it was before' | 'an example'
  /** Sentences by field id. */
  problems: Record<string, string>
  /** What a text with another unit was read as, by field id. */
  readAs: Record<string, string>
  setGiven(id: string, text: string): void
  hold(id: string, text: string): void
  reset(): void
}

const plain = (text: string) => text.replace('\u2212', '-')
export const entryOf = (value: number, field: NumberField) => plain(show(value, field))

function initialEntries(sheet: Sheet): Entries {
  const given = Object.fromEntries(
    sheet.given.map((f) => [f.id, f.kind === 'choice' ? f.initial : entryOf(f.initial, f)]),
  )
  const field = sheet.linked.find((f) => f.id === sheet.start?.held)
  return {
    given,
    held: field?.id ?? null,
    heldText: field && sheet.start ? String(sheet.start.value) : '',
  }
}

/** Entries from an address, what it does not say being as at first. */
function entriesOf(sheet: Sheet, params: URLSearchParams): Entries {
  const first = initialEntries(sheet)
  const usable = (field: GivenField, text: string) =>
    field.kind === 'number' || field.options.some((o) => o.value === text)
  const given = Object.fromEntries(
    sheet.given.map((f) => {
      const text = params.get(f.id)
      return [f.id, text !== null && usable(f, text) ? text : (first.given[f.id] as string)]
    }),
  )
  const hold = params.get('hold')
  const at = params.get('at')
  const known = sheet.linked.some((f) => f.id === hold)
  return known && at !== null ? { given, held: hold, heldText: at } : { ...first, given }
}

export function addressOf(entries: Entries): URLSearchParams {
  const params = new URLSearchParams(entries.given)
  if (entries.held) {
    params.set('hold', entries.held)
    params.set('at', entries.heldText)
  }
  return params
}

/** Works out what the entries say: a result, or sentences at the fields. */
function workOut(sheet: Sheet, entries: Entries, touched: string | null) {
  const problems: Record<string, string> = {}
  const readAs: Record<string, string> = {}
  const values: Record<string, number | string> = {}
  const read = (field: NumberField, text: string) => {
    const quantity = readQuantity(text, field.unit)
    if (!quantity.ok) {
      problems[field.id] = quantity.problem
      return null
    }
    if (quantity.converted) readAs[field.id] = `${show(quantity.value, field)} ${field.unit}`
    return quantity.value
  }
  const choices = Object.fromEntries(
    sheet.given.filter((f) => f.kind === 'choice').map((f) => [f.id, entries.given[f.id] as string]),
  )
  for (const field of sheet.given) {
    const text = entries.given[field.id] ?? ''
    if (field.kind === 'choice') values[field.id] = text
    // What does not matter now must not stop the rest.
    else if (field.matters && !field.matters(new Given(choices))) values[field.id] = field.initial
    else values[field.id] = read(field, text) ?? Number.NaN
  }
  const held = sheet.linked.find((f) => f.id === entries.held)
  const heldValue = held ? read(held, entries.heldText) : null
  let result: SheetResult | null = null
  if (Object.keys(problems).length === 0) {
    try {
      result = computeSheet(sheet, values, held && heldValue !== null ? { id: held.id, value: heldValue } : null)
    } catch (error) {
      if (!(error instanceof OutOfRange || error instanceof RangeError)) throw error
      const culprit = touched ?? held?.id ?? sheet.given.find((f) => f.kind === 'number')?.id ?? ''
      problems[culprit] = error.message
    }
  }
  return { result, problems, readAs }
}

/** The state of one sheet: fields, result, and an address that brings it back. Mount it anew for another sheet. */
export function useSheet(sheet: Sheet): SheetState {
  const [params, setParams] = useSearchParams()
  const [entries, setEntries] = useState(() => entriesOf(sheet, params))
  const [touched, setTouched] = useState<string | null>(null)
  const worked = useMemo(() => workOut(sheet, entries, touched), [sheet, entries, touched])
  const [example] = useState(() => workOut(sheet, initialEntries(sheet), null).result)
  const lastGood = useRef<SheetResult | null>(null)
  const last = useRef(addressOf(entries).toString())

  useEffect(() => {
    if (worked.result) lastGood.current = worked.result
  }, [worked])
  useEffect(() => {
    const address = addressOf(entries)
    if (address.toString() === last.current) return
    // The address follows a moment later: it is for sharing, not for typing.
    const timer = setTimeout(() => {
      last.current = address.toString()
      setParams(address, { replace: true, preventScrollReset: true })
    }, 200)
    return () => clearTimeout(timer)
  }, [entries, setParams])

  return {
    ...worked,
    entries,
    shown: worked.result ?? lastGood.current ?? example,
    staleness: lastGood.current ? 'as it was before' : 'an example',
    setGiven: (id, text) => {
      setTouched(id)
      setEntries((e) => ({ ...e, given: { ...e.given, [id]: text } }))
    },
    hold: (id, text) => {
      setTouched(id)
      setEntries((e) => ({ ...e, held: id, heldText: text }))
    },
    reset: () => {
      setTouched(null)
      setEntries(initialEntries(sheet))
    },
  }
}
