import { statfs } from 'node:fs/promises'
import { CALIBRATION_CHANGED, HOLD_FORGOTTEN, modelOf, NO_ROOM } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { changedDeviceCalibrations, numbersText } from '../devices/deviceCalibration.ts'
import { openHolds } from '../holds/holds.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { installedSensors } from '../sensors.ts'
import { type AlarmOf, setAlarms } from './alarmStore.ts'
import { lastVisitOf } from './levelShifts.ts'

const HOUR_MS = 3_600_000
/** Outputs that are held for longer are likely forgotten: nothing doses there (common practice, no source). */
const HELD_MS = 2 * HOUR_MS

/** Free on the disk, bytes: below the first somebody is told, below the second readings are no longer kept. */
const ROOM = { told: 500e6, records: 200e6 } as const

type Wrong = AlarmOf & { at: number; value?: number }

/** Looks at all that can be wrong with the keeping of a site. */
export async function lookAtSite({ db, clock }: Pick<RouteContext, 'db' | 'clock'>, freeBytes: number): Promise<void> {
  const now = clock.now()
  const looks = {
    [NO_ROOM.kind]: lackOfRoom(freeBytes, now),
    [HOLD_FORGOTTEN.kind]: await heldTooLong(db, now),
    [CALIBRATION_CHANGED.kind]: await changedNumbers(db),
  }
  await setAlarms(db, Object.keys(looks), Object.values(looks).flat(), now)
}

const lackOfRoom = (freeBytes: number, now: number): Wrong[] =>
  freeBytes < ROOM.told ? [{ kind: NO_ROOM.kind, positionId: null, at: now, value: Math.round(freeBytes / 1e6) }] : []

async function heldTooLong(db: Database, now: number): Promise<Wrong[]> {
  const ids = await positionIds(db)
  return (await openHolds(db)).flatMap(({ position, since }): Wrong[] =>
    now - since > HELD_MS
      ? [{ kind: HOLD_FORGOTTEN.kind, positionId: ids.get(position) ?? null, at: since + HELD_MS }]
      : [],
  )
}

async function changedNumbers(db: Database): Promise<Wrong[]> {
  const installed = await installedSensors(db)
  const changes = await changedDeviceCalibrations(db, installed)
  const lastVisits = await lastVisitOf(db)
  return installed.flatMap(({ installation, position }): Wrong[] => {
    const since = lastVisits.get(installation.id) ?? 0
    const change = changes.get(installation.id)
    if (!change || change.at.getTime() <= since) return []
    // The values are part of the alarm's identity, so that a further change raises a new one.
    const subject = numbersText(modelOf(position.kind), change.held)
    return [{ kind: CALIBRATION_CHANGED.kind, positionId: position.id, subject, at: change.at.getTime() }]
  })
}

async function positionIds(db: Database): Promise<Map<string, number>> {
  return new Map((await installedSensors(db)).map(({ position }) => [position.code, position.id]))
}

/** Free on the disk that a folder is on, bytes. */
export async function freeOn(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder)
  return bavail * bsize
}

/** Whether readings are still kept: the last room on the disk is for records. */
export const hasRoomForReadings = (freeBytes: number): boolean => freeBytes >= ROOM.records
