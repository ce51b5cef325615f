import { createHash } from 'node:crypto'
import { MessageChannel } from 'node:worker_threads'
import type { BringLogOptions, BringLogView, BringProgress } from '@frustum/contract'
import { modelOf } from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import { relearn } from '../../alarms/learned.ts'
import type { Database } from '../../database/open.ts'
import { imports, installations, positions, sites } from '../../database/schema.ts'
import { Problem } from '../../problem.ts'
import { keepManyReadings } from '../../readings/keepMany.ts'
import { rangeState } from '../../readings/rangeState.ts'
import type { Reading } from '../../readings/readingStore.ts'
import { type Installed, installedSensors } from '../../sensors.ts'
import type { LogReport } from '../takenFiles.ts'
import { inThread, rowsWrong, unreadable } from '../thread.ts'
import type { LogAnswer, LogTask } from './logWorker.ts'

type File = { bytes: Buffer; name: string }
type Author = { operator: string; at: Date }

let progress: BringProgress | null = null

/** How far a log that is being taken in has come; null while there is none. */
export const logProgress = (): BringProgress | null => progress

/**
 * Readings of a logger's file become readings between visits. What is there already stays as it is, so that the same
 * file may come twice, or go on where it was cut off.
 * @throws Problem for a file that cannot be read, and for rows that are wrong and not to be left out
 */
export async function bringLog(
  db: Database,
  file: File,
  options: BringLogOptions,
  author: Author,
): Promise<BringLogView> {
  const installed = await installedSensors(db)
  const [site] = await db.select({ timeZone: sites.timeZone }).from(sites)
  const timeZone = options.timeZone ?? site?.timeZone ?? 'UTC'
  if (!isTimeZone(timeZone))
    throw new Problem(400, 'invalid', `“${timeZone}” is no time zone.`, { hint: 'Write it as Europe/Berlin, or UTC.' })
  const task: LogTask = {
    ...file,
    options,
    positions: installed.map(({ position, device }) => ({
      code: position.code,
      unit: modelOf(position.kind).shownScale(device.setting).unit,
    })),
    timeZone,
    now: author.at.getTime(),
  }
  if (!options.take) return ask(task)
  if (progress)
    throw new Problem(409, 'import-under-way', 'Another log is being taken in just now.', {
      detail: 'Nothing of this one was taken in.',
      hint: 'Wait until it is done, then take this one in.',
    })
  progress = { done: 0, of: 0 }
  try {
    return await take(db, task, { file, author, installed })
  } finally {
    progress = null
  }
}

function isTimeZone(timeZone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone })
    return true
  } catch {
    return false
  }
}

async function ask(task: LogTask): Promise<BringLogView> {
  const answer = await inThread<LogAnswer>('log/logWorker', task, task.port ? [task.port] : [])
  if ('problem' in answer) throw unreadable(task.name, answer.problem)
  return answer.view
}

interface Batch {
  of: number
  position: string
  at: Float64Array
  shown: Float64Array
  /** degC; not a number where there was none. */
  temperature: Float64Array
}

async function take(
  db: Database,
  task: LogTask,
  { file, author, installed }: { file: File; author: Author; installed: readonly Installed[] },
): Promise<BringLogView> {
  const { port1: here, port2: port } = new MessageChannel()
  let fresh = 0
  let done = 0
  let failed: unknown = null
  here.on('message', (batch: Batch) => {
    keep(db, batch, installed)
      .then((kept) => {
        fresh += kept
        done += batch.at.length
        progress = { done, of: batch.of }
      })
      .catch((error) => {
        failed = error
      })
      .finally(() => here.postMessage('written'))
  })
  try {
    const view = await ask({ ...task, port })
    if (failed) throw failed
    if (view.asked.length > 0 || view.channels.some((c) => c.problem !== null))
      throw new Problem(409, 'not-clear', view.asked[0] ?? 'A column cannot be read so.', {
        detail: 'Nothing was taken in.',
      })
    if (view.wrong > 0 && !task.options.leaveOut) throw rowsWrong(view.wrong, view.rows)
    const report = { taken: fresh, known: done - fresh, wrong: view.wrong, rows: view.wrongRows }
    await db.insert(imports).values({
      ...author,
      what: 'log',
      fileName: file.name,
      sha256: createHash('sha256').update(file.bytes).digest('hex'),
      report: report satisfies LogReport,
      doneAt: author.at,
    })
    return { ...view, taken: fresh }
  } finally {
    here.close()
  }
}

/** Keeps a batch of a position with the sensors that were there; what is older than the first is of the first. */
async function keep(
  db: Database,
  { position: code, at, shown, temperature }: Batch,
  installed: readonly Installed[],
): Promise<number> {
  const of = installed.find((i) => i.position.code === code)
  if (!of) return 0
  const { position, device } = of
  const stays = await db
    .select({ id: installations.id, from: installations.installedAt })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(eq(positions.id, position.id))
    .orderBy(asc(installations.installedAt))
  const byStay = new Map<number, Reading[]>()
  let stay = 0
  at.forEach((ms, i) => {
    while (stay + 1 < stays.length && ms >= (stays[stay + 1]?.from.getTime() ?? 0)) stay++
    const id = stays[stay]?.id ?? of.installation.id
    const value = shown[i] as number
    const state = rangeState(position.kind, device.setting, value) === 'good' ? 'imported' : 'out-of-range'
    const warmth = temperature[i] as number
    const celsius = Number.isNaN(warmth) ? null : warmth
    const reading: Reading = { at: Math.round(ms), shown: value, signal: null, temperature: celsius, state }
    const list = byStay.get(id)
    if (list) list.push(reading)
    else byStay.set(id, [reading])
  })
  let fresh = 0
  for (const [id, all] of byStay) {
    fresh += await keepManyReadings(db, id, all)
    await relearn(db, id)
  }
  return fresh
}
