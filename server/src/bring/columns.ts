import type { ColumnChoice } from '@frustum/contract'

/** What a file's columns are called, and the cells below them. */

const plain = (text: string) =>
  text
    .toLowerCase()
    .replace(/[([].*$/, '')
    .replace(/[_\s]+/g, ' ')
    .replace(/[:.]+$/, '')
    .trim()

type Known<Column extends string> = Readonly<Record<Column, { also: readonly string[] }>>

/** The column whose heading is called so, else the one whose heading begins so; each column for one thing. */
export function guessColumns<Column extends string>(
  known: Known<Column>,
  headers: readonly string[],
  taken: Iterable<number> = [],
): ColumnChoice<Column> {
  const found: ColumnChoice<Column> = {}
  const free = new Set(headers.keys())
  for (const at of taken) free.delete(at)
  for (const fits of [
    (heading: string, word: string) => heading === word,
    (heading: string, word: string) => heading.startsWith(`${word} `),
  ]) {
    for (const column of Object.keys(known) as Column[]) {
      if (found[column] !== undefined) continue
      const at = [...free].find((i) => known[column].also.some((word) => fits(plain(headers[i] ?? ''), word)))
      if (at === undefined) continue
      found[column] = at
      free.delete(at)
    }
  }
  return found
}

/** Titles above the headings of a sheet are a few rows at most (common practice, no source). */
const MOST_TITLES = 20

interface BelowHeadings {
  /** Number of the row with the headings, from 1. */
  headingRow: number
  firstRows: string[]
  headers: string[]
  body: readonly (readonly string[])[]
}

/** A sheet from its headings on: the row that was chosen, or below titles the first that names the most columns by words. */
export function fromHeadings(
  rows: readonly (readonly string[])[],
  columnsIn: (cells: readonly string[]) => object,
  chosen: number | null,
): BelowHeadings {
  // A row of numbers names nothing.
  const worded = (cells: readonly string[]) => cells.map((cell) => (/[a-z]{2}/i.test(cell) ? cell : ''))
  const named = rows.slice(0, MOST_TITLES).map((cells) => Object.keys(columnsIn(worded(cells))).length)
  const found = Math.max(0, named.indexOf(Math.max(0, ...named)))
  const start = chosen === null || chosen > rows.length ? found : chosen - 1
  const firstRows = rows.slice(0, MOST_TITLES).map((cells) =>
    cells
      .filter((cell) => cell !== '')
      .join(', ')
      .slice(0, 60),
  )
  return { headingRow: start + 1, firstRows, headers: [...(rows[start] ?? [])], body: rows.slice(start + 1) }
}

export interface RowReader<Column extends string> {
  cell(column: Column): string
  /** What stands in brackets in the heading of a column. */
  unit(column: Column): string
}

export function readerOf<Column extends string>(
  headers: readonly string[],
  columns: ColumnChoice<Column>,
  cells: readonly string[],
): RowReader<Column> {
  const at = (column: Column, of: readonly string[]) => of[columns[column] ?? -1] ?? ''
  return {
    // What people write for nothing.
    cell: (column) => (/^(n\/?a|-+|–|\?|none|nil)$/i.test(at(column, cells).trim()) ? '' : at(column, cells).trim()),
    unit: (column) => /[([]([^)\]]+)[)\]]/.exec(at(column, headers))?.[1]?.trim() ?? '',
  }
}
