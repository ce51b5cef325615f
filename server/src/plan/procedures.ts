import {
  type Job,
  type JobPart,
  modelOf,
  nullIfOutOfRange,
  type Procedure,
  procedureOf,
  procedures,
  proceduresFor,
  reduceVisit,
  type Setup,
  type WorkingPractices,
} from '@frustum/core'
import { desc } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { isLinked } from '../devices/links.ts'
import { lineFacts, standingFacts } from '../records/setup.ts'
import { usualProcedure } from '../rounds/usualProcedure.ts'
import type { Installed } from '../sensors.ts'

/** What is to be done at a sensor on its next visit, and with which standards. */
export interface PlannedWork {
  procedure: Procedure
  standards: Record<string, string>
}

/** What each sensor's usual procedure is, and with which standards it was done last. */
export async function plannedWork(
  db: Database,
  installed: readonly Installed[],
  isSound: (position: string) => boolean,
): Promise<Map<string, PlannedWork>> {
  const past = await db
    .select({ installationId: visits.installationId, procedure: visits.procedure, settings: visits.settings })
    .from(visits)
    .orderBy(desc(visits.startedAt))
  const known = new Set(procedures().map((p) => p.id))
  return new Map(
    installed.map((i) => {
      const own = past.filter((v) => v.installationId === i.installation.id && known.has(v.procedure))
      const procedure = chosen(
        i,
        own.map((v) => v.procedure),
        isSound(i.position.code),
      )
      const last = own.find((v) => v.procedure === procedure.id) ?? own[0]
      const subject = { kind: i.position.kind, processValue: i.position.processValue, device: i.device.setting }
      const standards = Object.fromEntries(
        procedure.roles.flatMap(({ role, propose }) => {
          const code = last?.settings.standards[role] ?? propose(subject)[0]
          return code ? [[role, code]] : []
        }),
      )
      return [i.position.code, { procedure, standards }]
    }),
  )
}

function chosen({ position, device }: Installed, past: readonly string[], sound: boolean): Procedure {
  const possible = proceduresFor({
    kind: position.kind,
    device: device.setting,
    shows: device.shows,
    linked: isLinked({ position, device }),
    ...lineFacts({ position, device }),
    adjustsBy: device.adjustsBy,
    twins: [],
  }).filter((p) => !p.baseline)
  return usualProcedure({ position, device: device.setting, sound }, possible, past) as Procedure
}

/** The parts of a job from the steps of its procedure: waits as they stand there, the hands-on minutes between them. */
export function jobOf(
  installed: Installed,
  { procedure, standards }: PlannedWork,
  after: readonly string[],
  practices: WorkingPractices,
): Job {
  const steps =
    nullIfOutOfRange(() =>
      procedure.steps(reduceVisit(procedure, setupFor(installed, standards, practices), 0, []).evidence),
    ) ?? []
  const worked = Math.max(1, steps.filter((s) => s.kind !== 'wait').length)
  const each = procedure.handsOnMinutes / worked
  const parts: JobPart[] = []
  for (const step of steps) {
    if (step.kind === 'wait') {
      parts.push({ what: step.short, minutes: step.minutes ?? 60, hands: false, shared: step.shared === true })
      continue
    }
    const last = parts.at(-1)
    if (last?.hands) parts[parts.length - 1] = { ...last, minutes: last.minutes + each }
    else parts.push({ what: procedure.name, minutes: each, hands: true })
  }
  // Outputs are put on hold before anything floats or soaks; the plan needs the wait first to start it ahead.
  const firstWait = parts.findIndex((p) => !p.hands && p.shared)
  if (firstWait > 0) parts.unshift(...parts.splice(firstWait, 1))
  return {
    position: installed.position.code,
    parts: parts.length > 0 ? parts : [{ what: procedure.name, minutes: procedure.handsOnMinutes, hands: true }],
    after,
  }
}

function setupFor(installed: Installed, standards: Record<string, string>, practices: WorkingPractices): Setup {
  return {
    ...standingFacts(installed),
    activeCalibration: modelOf(installed.position.kind).ideal,
    previous: null,
    standards: Object.fromEntries(Object.entries(standards).map(([role, code]) => [role, { code, lot: null }])),
    practices,
    settlingHistory: [],
    twins: [],
  }
}

/** Kinds that an ion on the same body waits for. */
export function prerequisitesOf(work: PlannedWork, installed: Installed, along: readonly Installed[]): string[] {
  const kinds = (procedureOf(work.procedure.id).prerequisites ?? []).flatMap((p) => p.kinds)
  return along
    .filter(
      (o) =>
        o.position.body !== null &&
        o.position.body === installed.position.body &&
        o.position.code !== installed.position.code &&
        kinds.includes(o.position.kind),
    )
    .map((o) => o.position.code)
}
