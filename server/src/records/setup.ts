import { givesOf, type VisitSettings } from '@frustum/contract'
import { heldFor, modelOf, ownPart, type RecordLine, type Setup } from '@frustum/core'
import { and, eq, isNull, ne } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { devices, installations, positions, solutionLots } from '../database/schema.ts'
import { isLinked, isWritable } from '../devices/links.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { calibrationInForce, type Installed, lastFound, pastSettling, practicesAt } from '../sensors.ts'
import { lotFor } from '../shelf/lots.ts'

export interface WhenSetUp {
  startedAt: Date
  /** What the twins read then; null when nobody knows any more. */
  live: LiveValues | null
  /** What its record points to then; missing where nobody knows any more. */
  diagnosed?: Setup['diagnosed']
  /** How likely a sensor of the site is out then. */
  outside?: (installed: Pick<Installed, 'installation' | 'position'>) => number | undefined
  /** What was poured, where the record says so already; from the shelf as it is otherwise. */
  standards?: Setup['standards']
}

/**
 * What a procedure has to know of a visit beyond its record, when the visit begins: errors as found are against the
 * calibration that was in force then, not the one that the visit makes.
 */
export async function setupOf(
  db: Database | Transaction,
  installed: Installed,
  settings: VisitSettings,
  { startedAt, live, diagnosed, outside, standards }: WhenSetUp,
): Promise<Setup> {
  const { installation, position } = installed
  const past = await pastSettling(db, installation.id, startedAt)
  const standing = standingFacts(installed)
  return {
    ...standing,
    ...heldFor(modelOf(position.kind), await calibrationInForce(db, installation.id, startedAt), standing),
    previous: await lastFound(db, { id: installation.id, kind: position.kind }, startedAt),
    standards: standards ?? (await standardsFrom(db, settings.standards, startedAt.getTime())),
    practices: await practicesAt(db, startedAt),
    settlingHistory: past.seconds,
    ...(diagnosed === undefined ? {} : { diagnosed }),
    ...known({ outside: outside?.(installed) }),
    twins: live ? await twinsOf(db, live, installed, outside) : [],
  }
}

/** The standards chosen, each with the lot that it is poured from. */
export async function standardsFrom(
  db: Database | Transaction,
  chosen: VisitSettings['standards'],
  now: number,
): Promise<Setup['standards']> {
  const standards: Record<string, Setup['standards'][string]> = {}
  for (const [role, code] of Object.entries(chosen)) {
    const lot = await lotFor(db, code, now)
    standards[role] = {
      code,
      ...ownPart(code),
      ...(lot?.row.ownTable ? { lotTable: lot.row.ownTable } : {}),
      lot: lot && { lot: lot.lot, expired: lot.expired, openTooLong: lot.openTooLong, daysOver: lot.daysOver },
    }
  }
  return standards
}

/** The standards of a visit that was made already: from the lots that its readings name, not from those of now. */
export async function standardsOfRecord(
  db: Database | Transaction,
  chosen: VisitSettings['standards'],
  lines: readonly RecordLine[],
): Promise<Setup['standards']> {
  const poured = lines.flatMap(({ entry }) =>
    entry.type === 'captured' && entry.reading.standard ? [entry.reading.standard] : [],
  )
  const standards: Record<string, Setup['standards'][string]> = {}
  for (const [role, code] of Object.entries(chosen)) {
    const { lot = null, expired, openTooLong, daysOver } = poured.findLast((s) => s.code === code) ?? {}
    const [row] = lot
      ? await db
          .select({ ownTable: solutionLots.ownTable })
          .from(solutionLots)
          .where(and(eq(solutionLots.standard, code), eq(solutionLots.lot, lot)))
      : []
    standards[role] = {
      code,
      ...ownPart(code),
      ...(row?.ownTable ? { lotTable: row.ownTable } : {}),
      lot:
        lot === null
          ? null
          : { lot, expired: expired === true, openTooLong: openTooLong === true, daysOver: daysOver ?? 0 },
    }
  }
  return standards
}

/** What a procedure has to know of position and device: the same at every visit. */
export function standingFacts({ position, device }: Pick<Installed, 'position' | 'device'>) {
  return {
    kind: position.kind,
    position: position.code,
    processValue: position.processValue,
    processTemperature: position.processTemperature,
    tolerance: position.tolerance,
    ...(position.waterKind ? { waterKind: position.waterKind } : {}),
    device: device.setting,
    shows: device.shows,
    linked: isLinked({ position, device }),
    ...lineFacts({ position, device }),
    writable: isWritable({ position, device }),
    adjustsBy: device.adjustsBy,
    calibrationKey: device.calibrationKey,
    whileCalibrating: device.whileCalibrating,
    authorityRule: position.authorityRule,
    ...(position.checkFirst === 'never' ? { routine: true as const } : {}),
  }
}

/** What comes over its line, where it has one. */
export function lineFacts(installed: Pick<Installed, 'position' | 'device'>) {
  const { mapping } = installed.position
  if (!mapping || !isLinked(installed)) return {}
  return {
    gives: givesOf(mapping) ?? 'both',
    readsBack: Object.keys(mapping.calibration ?? {}).length > 0,
    holds: mapping.hold !== undefined,
  } as const
}

/** Other sensors of the kind in the same water, as they read now. */
async function twinsOf(
  db: Database | Transaction,
  live: LiveValues,
  { position, device: own }: Installed,
  outside: WhenSetUp['outside'],
): Promise<Setup['twins']> {
  if (!position.water) return []
  const rows = await db
    .select({ position: positions, device: devices, installation: installations })
    .from(positions)
    .innerJoin(installations, eq(installations.positionId, positions.id))
    .innerJoin(devices, eq(installations.deviceId, devices.id))
    .where(
      and(
        eq(positions.water, position.water),
        eq(positions.kind, position.kind),
        ne(positions.id, position.id),
        isNull(installations.removedAt),
      ),
    )
  return rows.flatMap(({ position: twin, device, installation }) => {
    const { shown } = live.current(twin.code)
    const { errorScale, shownScale } = modelOf(twin.kind)
    if (shown === null || shownScale(device.setting).unit !== shownScale(own.setting).unit) return []
    const uncertainty = errorScale.unit === '%' ? (Math.abs(shown) * twin.tolerance) / 200 : twin.tolerance / 2
    return [
      {
        position: twin.code,
        value: shown,
        uncertainty,
        ...known({ outside: outside?.({ installation, position: twin }) }),
      },
    ]
  })
}

/** Without what is not known. */
const known = <T extends object>(facts: T) =>
  Object.fromEntries(Object.entries(facts).filter(([, v]) => v !== undefined)) as { [K in keyof T]?: NonNullable<T[K]> }
