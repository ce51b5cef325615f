import { ENDPOINTS, keepingBody, operatorBody, type SiteView, schoolsBody, setUpBody } from '@frustum/contract'
import { readerFrom, type WorkingPractices } from '@frustum/core'
import { Router } from 'express'
import { changesOf, noteChanges, noteDone, undoChange, wordsOf } from '../changes/changes.ts'
import { ruleWords } from '../changes/ruleWords.ts'
import { DATES_MS, shownToAll } from '../database/derived.ts'
import { operators, schoolChoices, sites } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { keepingOf } from '../readings/keeping.ts'
import { setUpSite } from '../rig/add.ts'
import { practicesAt } from '../sensors.ts'
import { ownStandardsOf } from '../shelf/ownStandards.ts'

const SITE = { subject: 'site', id: null } as const

/** The site itself: its name, its people, how it works, and the clock that its pages follow. */
export function siteRoutes({ db, clock }: RouteContext, extensions: SiteView['extensions']) {
  const router = Router()
  const standing = async (): Promise<Omit<SiteView, 'clock'>> => {
    const [site] = await db.select().from(sites)
    const names = await db.select().from(operators)
    return {
      exists: site !== undefined,
      name: site?.name ?? 'Your site',
      timeZone: site?.timeZone ?? 'UTC',
      operators: names.filter((n) => n.archivedAt === null).map((n) => n.name),
      readers: Object.fromEntries(names.map((n) => [n.name, { id: n.id, choices: readerFrom(n.reader) }])),
      extensions,
      practices: await practicesAt(db, new Date(clock.now())),
      keeping: await keepingOf(db),
      ownStandards: await ownStandardsOf(db),
      changes: await changesOf(db, SITE, ruleWords(null, wordsOf([]))),
    }
  }
  const view = async (): Promise<SiteView> => ({
    ...(await shownToAll(db, 'site', { now: clock.now(), freshMs: DATES_MS }, standing)),
    clock: { now: clock.now(), rate: clock.rate },
  })
  serve(router, ENDPOINTS.site, view)
  accept(router, ENDPOINTS.setUp, setUpBody, async ({ body }) => {
    await setUpSite(db, body, new Date(clock.now()))
    return view()
  })
  accept(router, ENDPOINTS.setSchools, schoolsBody, async ({ body }) => {
    const at = new Date(clock.now())
    const before = await practicesAt(db, at)
    await db.transaction(async (tx) => {
      await noteChanges(tx, SITE, { operator: body.operator, at }, { before, after: { ...before, ...body.practices } })
      await tx.insert(schoolChoices).values({ at, ...body })
    })
    return practicesAt(db, at)
  })
  accept(router, ENDPOINTS.setKeeping, keepingBody, async ({ body: { operator, ...keeping } }) => {
    const said = (days: number | null) => (days === null ? 'for ever' : `${days} days`)
    const { readingsDays, hoursDays } = keeping
    await db.transaction(async (tx) => {
      await tx.update(sites).set({ keepReadingsDays: readingsDays, keepHoursDays: hoursDays })
      const what = `Readings are kept ${said(readingsDays)}, their hours ${said(hoursDays)}, their days for ever`
      await noteDone(tx, SITE, { operator, at: new Date(clock.now()) }, what)
    })
    return view()
  })
  accept(router, ENDPOINTS.undoSiteChange, operatorBody, async ({ params, body }) => {
    const at = new Date(clock.now())
    const before = await practicesAt(db, at)
    await db.transaction(async (tx) => {
      const { field, value } = await undoChange(tx, SITE, rowNumber(params.id, 'change'), { ...body, at })
      const practices = { ...before, [field]: value } as WorkingPractices
      await tx.insert(schoolChoices).values({ at, operator: body.operator, practices })
    })
    return practicesAt(db, at)
  })
  return router
}
