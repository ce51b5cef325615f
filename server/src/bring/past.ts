import { setTimeout } from 'node:timers/promises'
import { MessageChannel } from 'node:worker_threads'
import type { BringPastOptions, BringPastView, BringProgress } from '@frustum/contract'
import { procedureOf, TAKEN_ON } from '@frustum/core'
import { asc, eq, isNotNull, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import type { PlaceFacts } from '../database/recordColumns.ts'
import {
  calibrations,
  driftObservations,
  events,
  imports,
  installations,
  positionCodes,
  sites,
  visitEntries,
  visits,
} from '../database/schema.ts'
import { grouped } from '../grouped.ts'
import { Problem } from '../problem.ts'
import { deriveAnew } from '../records/derivedAnew.ts'
import { standingFacts } from '../records/setup.ts'
import { factsOf, snapshotOf } from '../records/snapshot.ts'
import { takeBack } from '../records/takenIn.ts'
import { allInstallations, type Installed, practicesAt } from '../sensors.ts'
import { ownStandardsOf } from '../shelf/ownStandards.ts'
import type { PastAnswer, PastSensor, PastTask, VisitToKeep } from './pastWorker.ts'
import { inThread, rowsWrong, unreadable } from './thread.ts'

type File = { bytes: Buffer; name: string }
type Author = { operator: string; at: Date }

let progress: BringProgress | null = null

/** How far the import that is under way has come; null while there is none. */
export const importProgress = (): BringProgress | null => progress

/**
 * Past calibrations of a list become records, all or nothing. They are written a few at a time, so that what else is
 * asked of the server waits only a moment; nobody is told of them before all are there, and forecasts know them then.
 * @throws Problem for a file that cannot be read, and for rows that are wrong and not to be left out
 */
export async function bringPast(
  db: Database,
  file: File,
  options: BringPastOptions,
  author: Author,
): Promise<BringPastView> {
  const there = await allInstallations(db)
  const [site] = await db.select().from(sites)
  const task: PastTask = {
    ...file,
    options,
    sensors: await sensorsOf(db, there, author.at),
    standards: await ownStandardsOf(db),
    timeZone: site?.timeZone ?? 'UTC',
    now: author.at.getTime(),
  }
  if (!options.take) return (await ask(task)).view
  if (progress) {
    throw new Problem(409, 'import-under-way', 'Another list is being taken in just now.', {
      detail: 'Nothing of this one was taken in.',
      hint: 'Wait until it is done, then look at this one again: what is there then is known.',
    })
  }
  progress = { done: 0, of: 0 }
  try {
    return await take(db, task, { there, site, author, file })
  } finally {
    progress = null
  }
}

async function ask(task: PastTask): Promise<PastAnswer> {
  const answer = await inThread<PastAnswer>('pastWorker', task, task.port ? [task.port] : [])
  if ('problem' in answer) throw unreadable(task.name, answer.problem)
  return answer
}

/** What is computed from a visit, written when all visits are. */
type Kept = Pick<VisitToKeep, 'id' | 'installationId' | 'at' | 'found' | 'observation'>

interface Taking {
  there: readonly Installed[]
  site: PlaceFacts['site'] | undefined
  author: Author
  file: File
}

async function take(db: Database, task: PastTask, { there, site, author, file }: Taking): Promise<BringPastView> {
  const [row] = await db
    .insert(imports)
    .values({ ...author, what: 'past', fileName: file.name, sha256: '', report: [] })
    .returning()
  const importId = (row as { id: number }).id
  const { port1: here, port2: port } = new MessageChannel()
  const facts = new Map(there.map((i) => [i.installation.id, factsOf(i, site)]))
  const kept: Kept[] = []
  const failed = new AbortController()
  here.on('message', ({ of, visits: batch }: { of: number; visits: VisitToKeep[] }) => {
    const began = performance.now()
    db.transaction((tx) => keep(tx, batch, { importId, facts }))
      // As long as it took, the database is left to others.
      .then(() => setTimeout(performance.now() - began))
      .then(
        () => {
          kept.push(
            ...batch.map(({ id, installationId, at, found, observation }) => ({
              id,
              installationId,
              at,
              found,
              observation,
            })),
          )
          progress = { done: kept.length, of }
          here.postMessage('written')
        },
        (error) => failed.abort(error),
      )
  })
  try {
    const answer = await Promise.race([ask({ ...task, port }), whenAborted(failed.signal)])
    const { view } = answer
    const wrong = view.rows.filter((r) => r.state === 'wrong').length
    if (wrong > 0 && !task.options.leaveOut) throw rowsWrong(wrong, view.rows.length)
    if (view.asked.length > 0) {
      throw new Problem(409, 'open-question', 'Something of the file can be read in two ways.', {
        detail: 'Nothing was taken in.',
        hint: 'Answer what is asked beside it.',
      })
    }
    view.taken = kept.length
    await db.transaction((tx) => finish(tx, { importId, kept, view, there, at: author.at }))
    return view
  } catch (error) {
    // Where the database is gone it is taken back at the next start.
    await takeBack(db, importId).catch(() => undefined)
    throw error
  } finally {
    here.close()
  }
}

const whenAborted = (signal: AbortSignal) =>
  new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason))
  })

const earliest = (of: readonly Kept[]) =>
  new Map([...grouped(of, (v) => v.installationId)].map(([id, list]) => [id, Math.min(...list.map((v) => v.at))]))

interface Keeping {
  importId: number
  facts: ReadonlyMap<number, PlaceFacts>
}

async function keep(tx: Transaction, batch: readonly VisitToKeep[], { importId, facts }: Keeping): Promise<void> {
  await tx.insert(visits).values(
    batch.map(({ id, installationId, operator, at, procedure, settings, setup, record, findings }) => ({
      id,
      installationId,
      importId,
      operator,
      procedure,
      settings,
      startedAt: new Date(at),
      closedAt: new Date(at),
      outcome: 'done' as const,
      findings,
      record,
      snapshot: snapshotOf(facts.get(installationId) as PlaceFacts, {
        procedure: procedureOf(procedure),
        settings,
        setup,
        known: 'later',
      }),
    })),
  )
  await tx
    .insert(visitEntries)
    .values(
      batch.flatMap(({ id, operator, lines }) =>
        lines.map(({ at, entry }, i) => ({ visitId: id, seq: i + 1, at: new Date(at), operator, entry })),
      ),
    )
}

interface Finishing {
  importId: number
  kept: readonly Kept[]
  view: BringPastView
  there: readonly Installed[]
  at: Date
}

/** What forecasts and health rest on, and with it all that came in is there. */
async function finish(tx: Transaction, { importId, kept, view, there, at: doneAt }: Finishing): Promise<void> {
  const of = (v: Kept) => ({ installation_id: v.installationId, visit_id: v.id, at: new Date(v.at).toISOString() })
  await putAll(
    tx,
    'calibrations',
    kept.flatMap((v) => (v.found ? [{ ...of(v), baseline: false, ...v.found }] : [])),
  )
  await putAll(
    tx,
    'drift_observations',
    kept.flatMap(({ observation, ...v }) => {
      if (!observation) return []
      const { asFound, asLeft, ...same } = observation
      return [{ ...of({ ...v, observation }), as_found: asFound, as_left: asLeft, ...same }]
    }),
  )
  const since = new Map(there.map((i) => [i.installation.id, i.installation.installedAt.getTime()]))
  for (const [id, at] of earliest(kept)) {
    await deriveAnew(tx, id, new Date(at))
    // Nobody knew since when it is there; now it is known that it was there then.
    if (at < (since.get(id) ?? 0)) {
      await tx
        .update(installations)
        .set({ installedAt: new Date(at) })
        .where(eq(installations.id, id))
    }
  }
  await tx.update(imports).set({ doneAt, report: view.rows, sha256: view.sha256 }).where(eq(imports.id, importId))
}

/** All rows with one statement: everybody waits for this transaction. */
async function putAll(tx: Transaction, table: string, rows: readonly object[]): Promise<void> {
  const columns = sql.join(
    Object.keys(rows[0] ?? {}).map((c) => sql.identifier(c)),
    sql`, `,
  )
  if (rows.length === 0) return
  await tx.execute(sql`
    insert into ${sql.identifier(table)} (${columns})
    select ${columns} from jsonb_populate_recordset(null::${sql.identifier(table)}, ${JSON.stringify(rows)}::jsonb)`)
}

/** All sensors that are or were somewhere, as far as their past is judged by it. */
async function sensorsOf(db: Database, there: readonly Installed[], now: Date): Promise<PastSensor[]> {
  const practices = await practicesAt(db, now)
  const former = grouped(await db.select().from(positionCodes), (c) => c.positionId)
  const found = grouped(await db.select().from(calibrations).orderBy(asc(calibrations.at)), (c) => c.installationId)
  const seen = grouped(
    await db.select().from(driftObservations).orderBy(asc(driftObservations.at)),
    (o) => o.installationId,
  )
  const made = grouped(
    await db
      .select({ installationId: visits.installationId, at: visits.startedAt })
      .from(visits)
      .where(isNotNull(visits.closedAt)),
    (v) => v.installationId,
  )
  const takenOn = new Set(
    (await db.select({ id: events.installationId }).from(events).where(eq(events.kind, TAKEN_ON.kind))).map(
      (e) => e.id,
    ),
  )
  return there.map((one) => {
    const { installation, position, sensor } = one
    const { id, installedAt, removedAt } = installation
    const isFirst = there.every(
      ({ installation: other }) =>
        other.id === id ||
        other.installedAt > installedAt ||
        (other.positionId !== position.id && other.sensorId !== sensor.id),
    )
    return {
      installationId: id,
      code: position.code,
      codes: [position.code, ...(former.get(position.id) ?? []).map((c) => c.code)].map((c) => c.toLowerCase()),
      serial: sensor.serialNumber,
      kind: position.kind,
      standing: { ...standingFacts(one), practices },
      from: installedAt.getTime(),
      to: removedAt?.getTime() ?? null,
      mayBeOlder: isFirst && takenOn.has(id),
      known: {
        calibrations: (found.get(id) ?? []).map(({ at, characteristic, adopted }) => ({
          at: at.getTime(),
          characteristic,
          adopted,
        })),
        observations: (seen.get(id) ?? []).map(({ at, asLeft }) => ({ at: at.getTime(), asLeft })),
      },
      visits: (made.get(id) ?? []).map(({ at }) => at.getTime()),
    }
  })
}
