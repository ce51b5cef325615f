import type { ToDo } from '@frustum/contract'
import { findStaleInstrument, type Sentence, say } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { knownInstruments } from '../instruments/instruments.ts'
import { shelf } from '../shelf/shelf.ts'

/**
 * Returns the tasks that no sensor's own row shows. None of them needs a response within the hour, so none is an alarm
 * (ISA-18.2): they are listed on Rounds and in the daily summary.
 * @param backupWarning what is wrong with the backups, if anything
 */
export async function openToDos(db: Database, now: number, backupWarning: Sentence | null): Promise<ToDo[]> {
  return [
    ...(await standardsUsedUp(db, now)),
    ...(await instrumentsPastDate(db, now)),
    ...(backupWarning ? [{ kind: 'backup' as const, sentence: backupWarning }] : []),
  ]
}

/** A standard with bottles on the shelf, none of which may be used. */
async function standardsUsedUp(db: Database, now: number): Promise<ToDo[]> {
  const { lots } = await shelf(db, now)
  const labels = new Set(lots.filter((l) => l.state !== 'discarded').map((l) => l.label))
  for (const { label, state } of lots) if (state === 'good' || state === 'ending') labels.delete(label)
  return [...labels].map((label) => ({ kind: 'standard', sentence: say`${label}: no usable bottle left.` }))
}

/** A travelling sensor is due by its own drift, and an instrument without a date is named where it is chosen. */
async function instrumentsPastDate(db: Database, now: number): Promise<ToDo[]> {
  const instruments = await knownInstruments(db)
  return instruments.flatMap((instrument): ToDo[] => {
    if (instrument.calibratedAt === null || instrument.sensorId !== undefined) return []
    const finding = findStaleInstrument(instrument, now)
    return finding ? [{ kind: 'instrument', sentence: finding.sentence }] : []
  })
}
