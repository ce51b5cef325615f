import type { VisitLive } from '@frustum/contract'
import type { PhStepKey } from '@frustum/core'
import type { Database } from '../database/open.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { pastSettling } from '../sensors.ts'
import type { VisitProgress } from './fold.ts'
import { lotFor, standardOf } from './lots.ts'
import { type OpenedVisit, openVisit } from './records.ts'
import { StepSession, type StepSetting } from './session.ts'

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

/** The live side of all open visits: traces, judges, and who watches. Lost with the process, and rebuilt from the record. */
export class LiveDesks {
  private readonly desks = new Map<string, Desk>()
  private readonly opening = new Map<string, Promise<Desk>>()
  private readonly codes = new Map<string, string>()

  /** What the stand-ins were last told, by position. */
  readonly standIns = new Map<string, { immersion: number; faults: number }>()

  constructor(
    private readonly db: Database,
    private readonly live: LiveValues,
  ) {}

  /** Sends the visit's live side to a listener until the returned function is called. */
  async watch(id: string, listener: (message: VisitLive) => void): Promise<() => void> {
    const desk = await this.desk(id)
    desk.audience.add(listener)
    listener(await this.message(id, desk, true))
    return () => {
      desk.audience.delete(listener)
    }
  }

  desk(id: string): Promise<Desk> {
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
    const opened = await openVisit(this.db, id)
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
  async refresh(id: string): Promise<void> {
    const desk = await this.desk(id)
    const opened = await openVisit(this.db, id)
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
    const code = this.codes.get(id) ?? (await openVisit(this.db, id)).installed.position.code
    this.codes.set(id, code)
    const standIn = this.standIns.get(code) ?? null
    return desk.session.message(this.live.current(code).blindSince, desk.revision, standIn, whole)
  }

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

/** Changes whenever the live side has to start over. */
function stepKeyOf(progress: VisitProgress): string {
  return `${progress.current}:${progress.typed.length}:${progress.applied ? 'applied' : ''}`
}
