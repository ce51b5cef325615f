import Papa from 'papaparse'
import readXlsx from 'read-excel-file/node'

/** A sheet as text, row by row; dates as ISO dates. */
export interface SheetText {
  name: string
  rows: string[][]
}

export const MOST_ROWS = 20_000
export const MOST_COLUMNS = 60

/** A file that is no table, said in one sentence. */
export type SheetsRead = { sheets: SheetText[] } | { problem: string }

/** Reads a CSV or XLSX file. Runs in a thread of its own: a large file holds up nobody. */
export default async function readSheets({
  bytes,
  name,
  mostRows = MOST_ROWS,
}: {
  bytes: Uint8Array
  name: string
  mostRows?: number
}): Promise<SheetsRead> {
  const isXlsx = bytes[0] === 0x50 && bytes[1] === 0x4b
  try {
    const sheets = isXlsx ? await fromXlsx(bytes) : [fromCsv(bytes, name)]
    const full = sheets.filter((s) => s.rows.some((row) => row.some((cell) => cell !== '')))
    if (full.length === 0) return { problem: 'There is no row in it.' }
    const long = full.find((s) => s.rows.length > mostRows)
    if (long) return { problem: `${long.name} has ${long.rows.length} rows; at most ${mostRows} are read at once.` }
    const wide = full.find((s) => s.rows.some((r) => r.length > MOST_COLUMNS))
    if (wide) return { problem: `${wide.name} has more than ${MOST_COLUMNS} columns.` }
    return { sheets: full }
  } catch {
    return { problem: isXlsx ? 'The workbook is damaged.' : 'It is no table.' }
  }
}

async function fromXlsx(bytes: Uint8Array): Promise<SheetText[]> {
  const sheets = await readXlsx(Buffer.from(bytes))
  return sheets.map(({ sheet, data }) => ({ name: sheet, rows: data.map((row) => row.map(textOf)) }))
}

const textOf = (cell: unknown): string =>
  cell === null || cell === undefined
    ? ''
    : cell instanceof Date
      ? cell.toISOString().replace(/T00:00:00.*$|:00\.000Z$|\.\d+Z$/, '')
      : String(cell).trim()

/** UTF-8, or what spreadsheets write where they do not. */
function fromCsv(bytes: Uint8Array, name: string): SheetText {
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    text = new TextDecoder('windows-1252').decode(bytes)
  }
  if (text.includes('\0')) throw new Error('not text')
  const { data } = Papa.parse<string[]>(text)
  return { name, rows: data.map((row) => row.map((cell) => cell.trim())) }
}
