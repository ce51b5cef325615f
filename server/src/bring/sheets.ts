import type { SheetsRead, SheetText } from './readSheets.ts'
import { inThread, unreadable } from './thread.ts'

/** The sheets of a file. @throws Problem when it cannot be read */
export async function sheetsOf(bytes: Uint8Array, name: string): Promise<SheetText[]> {
  const read = await inThread<SheetsRead>('readSheets', { bytes, name })
  if ('sheets' in read) return read.sheets
  throw unreadable(name, read.problem)
}
