import { randomUUID } from 'node:crypto'
import type { StartVisitBody, VisitEntry, VisitLive, VisitView } from '@frustum/contract'
import {
  type Decision,
  forecastDrift,
  millivoltsToPh,
  nextDate,
  type PhCharacteristic,
  type PhStepKey,
  readTypedNumber,
} from '@frustum/core'
import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { calibrations, driftObservations, visitEntries, visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { ModbusLink } from '../links/modbusLink.ts'
import { notFound, Problem } from '../problem.ts'
import { calibrationInForce, driftHistory, type Installed, installedAt, installedById, lastChanges, lastFound, pastSettling } from '../sensors.ts'
import { type VisitProgress, foldVisit } from './fold.ts'
import { lotFor, standardOf } from './lots.ts'
import { resultOf, verdictOf } from './result.ts'
import { type StepSetting, StepSession } from './session.ts'

type VisitRow = typeof visits.$inferSelect

interface Asker {
  clientId: string
  operator: string
}

/** A visit as read from disk, with all that its judgement needs. */
interface OpenedVisit {
  row: VisitRow
  installed: Installed
  progress: VisitProgress
  inForce: PhCharacteristic
  previous: Awaited<ReturnType<typeof lastFound>>
}

/** The live side of one open visit, shared by all browsers that look at it. */
interface Desk {
  session: StepSession
  stepKey: string
  revision: number
  audience: Set<(message: VisitLive) => void>
  stopListening: () => void
}

const STANDARD_OF: Partial<Record<PhStepKey, 'first' | 'second'>> = {
  'found-buffer': 'first',
  'first-buffer': 'first',
  'second-buffer': 'second',
  verify: 'first',
}

/** Runs visits: every action is on disk before it is answered. */
export class VisitDesk {
  private readonly desks = new Map<string, Desk>()
  private readonly opening = new Map<string, Promise<Desk>>()

  constructor(
    private readonly db: Database,
    private readonly live: LiveValues,
  ) {}

  async start(body: StartVisitBody): Promise<VisitView> {
    const installed = await installedAt(this.db, body.position)
    const id = await this.db.transaction(async (tx) => {
      const [open] = await tx
        .select()
        .from(visits)
        .where(and(eq(visits.installationId, installed.installation.id), isNull(visits.closedAt)))
      if (open) return open.id
      const now = new Date()
      const [row] = await tx
        .insert(visits)
        .values({
          id: randomUUID(),
          installationId: installed.installation.id,
          kind: body.kind,
          firstStandard: body.first,
          secondStandard: body.second,
          operator: body.operator,
          startedAt: now,
          holderClient: body.clientId,
          holderName: body.operator,
          heldSince: now,
        })
        .returning()
      return (row as VisitRow).id
    })
    return this.view(id)
  }

  async view(id: string): Promise<VisitView> {
    const opened = await this.open(id)
    const { row, installed, progress, inForce, previous } = opened
    const { position, place, device } = installed
    const now = Date.now()
    const standards = [row.firstStandard, row.secondStandard]
    const lots: VisitView['lots'] = {}
    for (const code of standards) {
      const lot = await lotFor(this.db, code, now)
      lots[code] = lot && { lot: lot.row.lot, expired: lot.expired, openTooLong: lot.openTooLong, daysOver: lot.daysOver }
    }
    const result = resultOf(progress, installed, inForce, previous)
    return {
      id,
      position: position.code,
      place: place.name,
      spot: position.spot,
      kind: row.kind,
      wentOn: progress.course.wentOn,
      first: row.firstStandard,
      second: row.secondStandard,
      operator: row.operator,
      startedAt: row.startedAt.getTime(),
      closedAt: row.closedAt?.getTime() ?? null,
      outcome: row.outcome,
      holder:
        row.holderClient && row.holderName && row.heldSince && !row.closedAt
          ? { clientId: row.holderClient, name: row.holderName, since: row.heldSince.getTime() }
          : null,
      steps: progress.steps,
      current: row.closedAt ? null : progress.current,
      cautions: position.cautions,
      processValue: position.processValue,
      tolerance: position.tolerance,
      linked: device.link !== null,
      standIn: device.standIn,
      writable: device.writable,
      deviceShows: device.shows,
      inForce,
      lots,
      result,
      verdict: row.kind === 'check' ? verdictOf(progress, position.tolerance, inForce) : null,
      decision: progress.decision,
      applied: progress.applied,
      asLeftError: asLeft(progress, result),
      next: row.closedAt ? await this.nextDateOf(installed) : null,
    }
  }

  async done(id: string, asker: Asker, step: PhStepKey): Promise<VisitView> {
    return this.record(id, asker, step, { type: 'done', step })
  }

  async skip(id: string, asker: Asker, step: PhStepKey, reason: string): Promise<VisitView> {
    if (['result', 'verdict', 'release'].includes(step)) {
      throw new Problem(409, 'not-skippable', 'This step cannot be skipped.', { hint: 'Decide, or end the visit.' })
    }
    return this.record(id, asker, step, { type: 'skipped', step, reason })
  }

  async redo(id: string, asker: Asker, step: PhStepKey, reason: string): Promise<VisitView> {
    return this.record(id, asker, null, { type: 'redo', step, reason })
  }

  async goOn(id: string, asker: Asker): Promise<VisitView> {
    return this.record(id, asker, 'verdict', { type: 'went-on' })
  }

  async abandon(id: string, asker: Asker, reason: string): Promise<VisitView> {
    return this.record(id, asker, null, { type: 'abandoned', reason })
  }

  async capture(id: string, asker: Asker, step: PhStepKey, earlyReason?: string): Promise<VisitView> {
    const desk = await this.desk(id)
    if (desk.session.setting.step !== step) throw staleStep()
    const reading = desk.session.capture(earlyReason)
    return this.record(id, asker, step, { type: 'captured', step, reading })
  }

  async typed(id: string, asker: Asker, step: PhStepKey, value: string, temperature: string): Promise<VisitView> {
    const [v, t] = [readTypedNumber(value), readTypedNumber(temperature)]
    if (!v.ok || !t.ok) throw new Problem(400, 'invalid', 'Type the reading as a number.')
    return this.record(id, asker, step, { type: 'typed', step, value: v.value, temperature: t.value })
  }

  async shows(id: string): Promise<'millivolt' | 'value'> {
    const { installed } = await this.open(id)
    return installed.device.shows
  }

  async decide(id: string, asker: Asker, decision: Decision, note: string | undefined): Promise<VisitView> {
    const view = await this.view(id)
    const step = view.current
    const proposal = step === 'result' ? view.result?.proposal : step === 'verdict' ? view.verdict?.proposal : undefined
    if (!proposal || (step !== 'result' && step !== 'verdict')) throw staleStep()
    if (decision !== proposal.decision && (note ?? '').length < 3) {
      throw new Problem(400, 'note-needed', 'You decide otherwise than proposed.', {
        hint: 'Add a note that says why.',
        fields: { note: 'Say why in a few words.' },
      })
    }
    if (decision === 'adjust' && step === 'result' && view.result?.findings.some((f) => f.severity === 'stop')) {
      throw new Problem(409, 'no-result', 'These points give no characteristic that a device could use.', {
        hint: 'Take the points again.',
      })
    }
    const entry: VisitEntry = { type: 'decided', step, decision, proposed: proposal.decision, note: note || null }
    return this.record(id, asker, step, entry)
  }

  async apply(id: string, asker: Asker, way: 'link' | 'keyed', shownAfter: string | undefined): Promise<VisitView> {
    const view = await this.view(id)
    const calibration = view.result?.calibration
    if (view.current !== 'apply' || !calibration) throw staleStep()
    const wanted = { slopeEfficiency: round(calibration.slopeEfficiency, 4), zero: round(calibration.zero, 1) }
    if (way === 'link') {
      const link = this.live.link(view.position)
      if (!link || !view.writable) {
        throw new Problem(409, 'not-writable', 'This device cannot be written over its link.', {
          hint: 'Key the two numbers in on the device.',
        })
      }
      await this.writeOver(link, wanted)
    }
    const typed = shownAfter === undefined ? null : readTypedNumber(shownAfter)
    return this.record(id, asker, 'apply', {
      type: 'applied',
      way,
      ...wanted,
      shownAfter: typed?.ok ? typed.value : null,
    })
  }

  async takeOver(id: string, asker: Asker): Promise<VisitView> {
    const { row } = await this.open(id)
    await this.db.transaction(async (tx) => {
      await this.append(tx, id, asker.operator, { type: 'taken-over', from: row.holderName ?? 'nobody' })
      await tx
        .update(visits)
        .set({ holderClient: asker.clientId, holderName: asker.operator, heldSince: new Date() })
        .where(eq(visits.id, id))
    })
    await this.refresh(id)
    return this.view(id)
  }

  /** Sends the visit's live side to a listener until the returned function is called. */
  async watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    const desk = await this.desk(id)
    desk.audience.add(listener)
    listener(await this.message(id, desk, true))
    return () => {
      desk.audience.delete(listener)
    }
  }

  private async writeOver(link: NonNullable<ReturnType<LiveValues['link']>>, wanted: PhCharacteristic): Promise<void> {
    let held: PhCharacteristic
    try {
      held = await link.writeCalibration(wanted)
    } catch {
      throw new Problem(502, 'device-silent', 'The device did not take the numbers.', {
        detail: 'The points and the result are kept; nothing is lost.',
        hint: 'Check the line and apply again, or key the numbers in by hand.',
      })
    }
    if (Math.abs(held.zero - wanted.zero) > 0.05 || Math.abs(held.slopeEfficiency - wanted.slopeEfficiency) > 5e-4) {
      throw new Problem(502, 'device-differs', 'The device holds other numbers than were sent.', {
        detail: `It says slope ${(100 * held.slopeEfficiency).toFixed(1)} %, zero ${held.zero.toFixed(1)} mV.`,
        hint: 'Apply again, or key the numbers in by hand.',
      })
    }
  }

  /** Writes one line of the record, and all that follows from it, in one transaction. */
  private async record(id: string, asker: Asker, step: PhStepKey | null, entry: VisitEntry): Promise<VisitView> {
    const opened = await this.open(id)
    await this.db.transaction(async (tx) => {
      // The lock keeps two actions at the same moment from both finding the step still open.
      const [row] = await tx.execute<{ holder_client: string | null; holder_name: string | null; closed_at: Date | null }>(
        sql`select holder_client, holder_name, closed_at from visits where id = ${id} for update`,
      ).then((r) => r.rows)
      if (row?.closed_at) throw new Problem(409, 'closed', 'This visit is closed; its record stands.')
      if (row?.holder_client && row.holder_client !== asker.clientId) {
        throw new Problem(409, 'held', `${row.holder_name} has this sensor in hand.`, { hint: 'Take it over first.' })
      }
      const before = foldVisit(opened.row.kind, await this.lines(tx, id))
      if (step !== null && before.current !== step) throw staleStep()
      const at = new Date()
      await this.append(tx, id, asker.operator, entry)
      await this.follow(tx, opened, entry, at)
    })
    await this.refresh(id)
    return this.view(id)
  }

  /** What a line of the record entails beyond itself. */
  private async follow(tx: Transaction, opened: OpenedVisit, entry: VisitEntry, at: Date): Promise<void> {
    const { row, installed, inForce, previous } = opened
    const installationId = installed.installation.id
    const progress = foldVisit(row.kind, await this.lines(tx, row.id))
    const result = resultOf(progress, installed, inForce, previous)
    const found = result?.calibration
    const decidedNotToAdjust = entry.type === 'decided' && entry.step === 'result' && entry.decision !== 'adjust'
    if (found && result.errorNow !== null && (entry.type === 'applied' || decidedNotToAdjust)) {
      const applied = entry.type === 'applied' ? { zero: entry.zero, slopeEfficiency: entry.slopeEfficiency } : null
      await tx.insert(calibrations).values({
        installationId,
        visitId: row.id,
        at,
        zero: applied?.zero ?? found.zero,
        slopeEfficiency: applied?.slopeEfficiency ?? found.slopeEfficiency,
        zeroUncertainty: found.zeroUncertainty,
        slopeEfficiencyUncertainty: found.slopeEfficiencyUncertainty,
        adopted: applied !== null,
      })
    }
    const finished = progress.current === null && entry.type !== 'abandoned'
    if (finished) await this.observe(tx, opened, progress, at)
    if (finished || entry.type === 'abandoned') {
      await tx
        .update(visits)
        .set({ closedAt: at, outcome: finished ? 'done' : 'abandoned', holderClient: null, holderName: null, heldSince: null })
        .where(eq(visits.id, row.id))
    }
  }

  /** The error as found and as left, from which drift is reckoned. Nothing when the visit measured neither. */
  private async observe(tx: Transaction, opened: OpenedVisit, progress: VisitProgress, at: Date): Promise<void> {
    const { row, installed } = opened
    const before = await this.inForceBefore(tx, row)
    const result = resultOf(progress, installed, before, opened.previous)
    const verdict = verdictOf(progress, installed.position.tolerance, before)
    const checkError = verdict ? verdict.shown - verdict.right : null
    const asFound = result?.asFoundError ?? result?.errorNow ?? checkError
    const left = asLeft(progress, result) ?? checkError
    if (left === null) return
    await tx.insert(driftObservations).values({
      installationId: installed.installation.id,
      visitId: row.id,
      at,
      asFound,
      asLeft: left,
      uncertainty: result?.uncertainty ?? verdict?.uncertainty ?? 0.05,
      fouling: result?.fouling ?? null,
      adjusted: progress.applied !== null,
    })
  }

  private async append(tx: Transaction, visitId: string, operator: string, entry: VisitEntry): Promise<void> {
    const [last] = await tx
      .select({ seq: visitEntries.seq })
      .from(visitEntries)
      .where(eq(visitEntries.visitId, visitId))
      .orderBy(desc(visitEntries.seq))
      .limit(1)
    await tx.insert(visitEntries).values({ visitId, seq: (last?.seq ?? 0) + 1, at: new Date(), operator, entry })
  }

  private async lines(db: Database | Transaction, id: string) {
    const rows = await db.select().from(visitEntries).where(eq(visitEntries.visitId, id)).orderBy(asc(visitEntries.seq))
    return rows.map((r) => ({ at: r.at.getTime(), entry: r.entry }))
  }

  private async open(id: string): Promise<OpenedVisit> {
    const [row] = await this.db.select().from(visits).where(eq(visits.id, id))
    if (!row) throw notFound('visit')
    const installed = await installedById(this.db, row.installationId)
    const progress = foldVisit(row.kind, await this.lines(this.db, id))
    const inForce = await this.inForceBefore(this.db, row)
    return { row, installed, progress, inForce, previous: await this.foundBefore(row) }
  }

  /** The calibration in force when the visit began: its errors as found are against that one. */
  private async inForceBefore(db: Database | Transaction, row: VisitRow): Promise<PhCharacteristic> {
    return calibrationInForce(db, row.installationId, row.startedAt)
  }

  private foundBefore(row: VisitRow) {
    return lastFound(this.db, row.installationId, row.startedAt)
  }

  private async nextDateOf({ installation, position }: Installed) {
    const history = (await driftHistory(this.db, [installation.id])).get(installation.id) ?? []
    const changedAt = (await lastChanges(this.db, [installation.id])).get(installation.id)
    return history.length > 0 ? nextDate(forecastDrift(history, changedAt), position) : null
  }

  private desk(id: string): Promise<Desk> {
    const known = this.desks.get(id)
    if (known) return Promise.resolve(known)
    // Two browsers may ask at the same moment; both must get the same one.
    let opening = this.opening.get(id)
    if (!opening) {
      opening = this.openDesk(id).finally(() => this.opening.delete(id))
      this.opening.set(id, opening)
    }
    return opening
  }

  private async openDesk(id: string): Promise<Desk> {
    const opened = await this.open(id)
    const desk: Desk = {
      session: await this.session(opened),
      stepKey: stepKeyOf(opened.progress),
      revision: 1,
      audience: new Set(),
      stopListening: () => undefined,
    }
    const code = opened.installed.position.code
    desk.stopListening = this.live.listen(code, (reading) => {
      if (reading) desk.session.take(reading)
      if (desk.audience.size > 0) void this.tell(id, desk, false)
    })
    this.desks.set(id, desk)
    return desk
  }

  /** After a write: a new step gets a new session, and everybody is told. */
  private async refresh(id: string): Promise<void> {
    const desk = await this.desk(id)
    const opened = await this.open(id)
    const key = stepKeyOf(opened.progress)
    desk.revision++
    if (key !== desk.stepKey) {
      desk.stepKey = key
      desk.session = await this.session(opened)
    }
    await this.tell(id, desk, true)
    if (opened.row.closedAt) {
      desk.stopListening()
      this.desks.delete(id)
    }
  }

  private async tell(id: string, desk: Desk, whole: boolean): Promise<void> {
    const message = await this.message(id, desk, whole)
    for (const listener of desk.audience) listener(message)
  }

  private async message(id: string, desk: Desk, whole: boolean): Promise<VisitLive> {
    const code = this.codes.get(id) ?? (await this.open(id)).installed.position.code
    this.codes.set(id, code)
    const link = this.live.link(code)
    const standIn = link instanceof ModbusLink && this.standIns.has(code) ? (this.standIns.get(code) ?? null) : null
    return desk.session.message(this.live.current(code).blindSince, desk.revision, standIn, whole)
  }

  private readonly codes = new Map<string, string>()

  /** What the stand-ins were last told, by position. */
  readonly standIns = new Map<string, { immersion: number; faults: number }>()

  private async session(opened: OpenedVisit): Promise<StepSession> {
    const { row, installed, progress, inForce, previous } = opened
    const step = row.closedAt ? null : progress.current
    const which = step && STANDARD_OF[step]
    const code = which === 'first' ? row.firstStandard : which === 'second' ? row.secondStandard : null
    const lot = code ? await lotFor(this.db, code, Date.now()) : null
    const setting: StepSetting = {
      step,
      standard: code ? standardOf(code, lot) : null,
      lotTable: lot?.row.ownTable ?? undefined,
      others: [row.firstStandard, row.secondStandard, 'pH4.01', 'pH7.00', 'pH10.01'],
      device: progress.applied ?? inForce,
      lastFound: previous,
      past: await pastSettling(this.db, installed.installation.id),
      shows: installed.device.shows,
      linked: installed.device.link !== null,
    }
    const session = new StepSession(setting)
    const first = progress.typed[0]
    if (first) for (const t of progress.typed) session.takeTyped(t.at, t.value, t.temperature, first.at)
    return session
  }
}

const staleStep = () =>
  new Problem(409, 'stale-step', 'The visit has moved on meanwhile.', { hint: 'Look at the step that is open now.' })

/** Changes whenever the live side has to start over. */
function stepKeyOf(progress: VisitProgress): string {
  return `${progress.current}:${progress.typed.length}:${progress.applied ? 'applied' : ''}`
}

const round = (value: number, decimals: number) => Math.round(value * 10 ** decimals) / 10 ** decimals

/** The error left behind at the process value: what the verification showed, or what was left alone. */
function asLeft(progress: VisitProgress, result: ReturnType<typeof resultOf>): number | null {
  if (progress.applied) {
    const check = progress.readings.verify
    if (!check?.standard) return 0
    return millivoltsToPh(check.millivolts, check.temperature, progress.applied) - check.standard.value
  }
  return result?.errorNow ?? null
}
