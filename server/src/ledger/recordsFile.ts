import type { VisitSettings } from '@frustum/contract'
import { isProcedure } from '@frustum/core'
import { array, mixed, number, object, string, ValidationError } from 'yup'
import { checkVisitSettings } from '../database/columns.ts'
import { checkEntry } from '../database/entryVersions.ts'
import {
  holds,
  isFlag,
  isNumber,
  isText,
  listOf,
  orMissing,
  orNull,
  recordOf,
  shapeOf,
} from '../database/parsedJson.ts'
import {
  checkAssessment,
  checkDevice,
  checkRecord,
  checkSnapshot,
  isKind,
  type PlaceFacts,
  positionShape,
} from '../database/recordColumns.ts'
import { Problem } from '../problem.ts'
import type { RecordsDocument, VisitRecord } from './exportRecords.ts'

/** A visit as it is taken in, of whatever version its file is. */
export interface VisitToTake extends Omit<VisitRecord, 'snapshot' | 'record'> {
  settings: VisitSettings
  /** Null in files of before they were kept. */
  snapshot: VisitRecord['snapshot'] | null
  record: VisitRecord['record']
  /** Null where the file does not say what the position is. */
  facts: PlaceFacts | null
  /** Instant, or null while the sensor is there. */
  removedAt: string | null
}

interface FirstDocument {
  site: RecordsDocument['site']
  positions: {
    code: string
    place: PlaceFacts['place']
    position: Record<string, unknown>
    device: PlaceFacts['device']
  }[]
  visits: (Omit<VisitToTake, 'snapshot' | 'record' | 'facts'> & {
    position: string
    sensor: PlaceFacts['sensor']
    installedAt: string
  })[]
}

/** What is read of a file of records whole; its visits follow one by one. */
export const RECORD_MEMBERS = ['format', 'version', 'site', 'removals', 'positions'] as const

export interface RecordsHeading {
  site: RecordsDocument['site']
  /** A visit of the file as what is to be taken in. @throws Problem with the place and what is wrong there */
  visit(visit: unknown, number: number): Promise<VisitToTake>
}

/**
 * @param members of the file, `visits` an empty list where it has any
 * @throws Problem with the place and what is wrong there
 */
export async function readRecordsHeading(members: Record<string, unknown>): Promise<RecordsHeading> {
  await checked(members, null)
  const file = { ...members, visits: [] }
  const { version, site } = members as { version: 1 | 2; site: RecordsDocument['site'] }
  const read =
    version === 1 ? fromFirst(file as unknown as FirstDocument) : fromSecond(file as unknown as RecordsDocument)
  return {
    site,
    visit: async (visit, number) => {
      await checked({ ...file, visits: [visit] }, number)
      return read(visit as never)
    },
  }
}

/** @param number of the only visit that the file has, among those of the whole */
async function checked(file: { version?: unknown; visits?: unknown }, number: number | null): Promise<void> {
  const placed = (why: string) => (number === null ? why : why.replace(/\bvisits\[[01]\]/, `visits[${number}]`))
  try {
    await heading.validate(file, { strict: true })
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    throw unreadable(placed(error.message))
  }
  const wrong = (file.version === 1 ? checkFirst : checkSecond)(file)
  if (wrong !== null) throw unreadable(`The file is not whole: ${placed(wrong)}.`)
}

const unreadable = (why: string) =>
  new Problem(400, 'unreadable-records', why, {
    detail: 'Nothing was taken in.',
    hint: 'Choose a JSON file that was exported from a Ledger.',
  })

const heading = object({
  format: mixed<'frustum-records'>()
    .oneOf(['frustum-records'], 'This is no file of Frustum records.')
    .required('This is no file of Frustum records.'),
  version: number().oneOf([1, 2], 'These records are of a newer version than this program reads.').required(),
  site: object({ name: string().required(), timeZone: string().required() }).required(),
  visits: array(
    object({
      id: string().uuid().required(),
      procedure: string()
        .test('procedure', 'There is no such procedure.', (id) => isProcedure(String(id)))
        .required(),
      operator: string().required(),
      outcome: string().oneOf(['done', 'abandoned']).required(),
    }),
  ).required(),
})

const isInstant = holds((v) => typeof v === 'string' && !Number.isNaN(Date.parse(v)), 'instant')
const parameters = recordOf(isNumber)

const visit = {
  startedAt: isInstant,
  closedAt: isInstant,
  findings: orMissing(orNull(listOf(isText))),
  entries: listOf(
    shapeOf({
      seq: isNumber,
      at: isInstant,
      operator: isText,
      entry: checkEntry,
      assessment: orMissing(orNull(checkAssessment)),
    }),
  ),
  calibrations: listOf(
    shapeOf({
      at: isInstant,
      characteristic: parameters,
      uncertainty: parameters,
      relative: orMissing(orNull(shapeOf({ found: parameters, held: parameters }))),
      adopted: isFlag,
      baseline: isFlag,
    }),
  ),
  observations: listOf(
    shapeOf({
      at: isInstant,
      asFound: orNull(isNumber),
      asLeft: isNumber,
      verified: orMissing(isFlag),
      uncertainty: isNumber,
      fouling: orNull(isNumber),
      adjusted: isFlag,
    }),
  ),
  corrections: listOf(shapeOf({ at: isInstant, operator: isText, text: isText })),
}

const checkFirst = shapeOf({
  positions: listOf(
    shapeOf({
      code: isText,
      place: shapeOf({ name: isText, water: isText }),
      position: shapeOf(positionShape),
      device: checkDevice,
    }),
  ),
  visits: listOf(
    shapeOf({
      ...visit,
      position: isText,
      sensor: shapeOf({ serialNumber: isText, kind: isKind, model: isText }),
      installedAt: isInstant,
      removedAt: orMissing(orNull(isInstant)),
      settings: checkVisitSettings,
    }),
  ),
})

const checkSecond = shapeOf({
  removals: listOf(shapeOf({ position: isText, serialNumber: isText, installedAt: isInstant, removedAt: isInstant })),
  visits: listOf(shapeOf({ ...visit, snapshot: checkSnapshot, record: orNull(checkRecord) })),
})

function fromFirst({ site, positions }: FirstDocument) {
  const places = new Map(positions.map((p) => [p.code, p]))
  return ({ position: code, sensor, installedAt, ...visit }: FirstDocument['visits'][number]): VisitToTake => {
    const known = places.get(code)
    return {
      ...visit,
      findings: visit.findings ?? null,
      removedAt: visit.removedAt ?? null,
      snapshot: null,
      record: null,
      facts: known
        ? {
            site,
            place: known.place,
            position: { ...known.position, code } as PlaceFacts['position'],
            device: known.device,
            sensor,
            installedAt,
          }
        : null,
    }
  }
}

function fromSecond({ removals }: RecordsDocument) {
  const removed = new Map(
    removals.map((r) => [installationKey(r.position, r.serialNumber, r.installedAt), r.removedAt]),
  )
  return (visit: VisitRecord): VisitToTake => {
    const { snapshot } = visit
    const { position, sensor, installedAt } = snapshot
    return {
      ...visit,
      settings: snapshot.settings,
      facts: snapshot,
      removedAt: removed.get(installationKey(position.code, sensor.serialNumber, installedAt)) ?? null,
    }
  }
}

const installationKey = (...parts: string[]) => JSON.stringify(parts)
