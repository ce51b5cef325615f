import type { VisitEntry } from '@frustum/core'
import type { UnreadableEntry } from '../database/columns.ts'
import { Problem } from '../problem.ts'

/** Says so of a record that this version cannot read; it takes nothing else down with it. */
export class UnreadableRecord extends Problem {
  constructor(seq: number, why: string) {
    super(409, 'record-unreadable', `Line ${seq} of this record cannot be read: ${why}.`, {
      detail: 'It was left as it is; everything else goes on without it.',
      hint: 'Export the records as JSON: the line is in the file as it stands.',
    })
  }
}

/** The entry of a line. @throws UnreadableRecord */
export function readable({ seq, entry }: { seq: number; entry: VisitEntry | UnreadableEntry }): VisitEntry {
  if (entry.type === 'unreadable') throw new UnreadableRecord(seq, entry.why)
  return entry
}

/** What is asked for, or what stands for it where the record cannot be read. */
export const orIfUnreadable = <T, E>(asked: Promise<T>, instead: E): Promise<T | E> =>
  asked.catch((error) => {
    if (error instanceof UnreadableRecord) return instead
    throw error
  })
