// @vitest-environment happy-dom

import { act } from '@testing-library/react'
import type { ComponentType } from 'react'
import { afterEach, expect, it, vi } from 'vitest'
import { answering, leavePage, show, words } from '../../../lab/src/fixtures/page.tsx'
import { SITE } from '../../../lab/src/fixtures/visitViews.ts'

afterEach(leavePage)

type Page = [path: string, at: string, load: () => Promise<ComponentType>]
/** All but those that list nothing. */
const PAGES: Page[] = [
  ['/', '/', async () => (await import('./rounds/RoundsRoom.tsx')).RoundsRoom],
  ['/bench', '/bench', async () => (await import('./bench/BenchDoor.tsx')).BenchDoor],
  ['/bench/start/:position', '/bench/start/A', async () => (await import('./bench/StartVisit.tsx')).StartVisit],
  ['/bench/:id', '/bench/1', async () => (await import('./bench/BenchRoom.tsx')).BenchRoom],
  ['/probes', '/probes', async () => (await import('./probes/ProbesRoom.tsx')).ProbesRoom],
  ['/probes/compare', '/probes/compare?of=A,B', async () => (await import('./probes/ComparePage.tsx')).ComparePage],
  ['/probes/:position', '/probes/A', async () => (await import('./probes/ProbePage.tsx')).ProbePage],
  ['/probes/:position/past/:visit', '/probes/A/past/1', async () => (await import('./probes/PastPage.tsx')).PastPage],
  [
    '/probes/:position/readings',
    '/probes/A/readings',
    async () => (await import('./readings/ReadingsPage.tsx')).ReadingsPage,
  ],
  ['/trips/new', '/trips/new', async () => (await import('./trips/NewTrip.tsx')).NewTrip],
  ['/trips/:id', '/trips/1', async () => (await import('./trips/TripRoom.tsx')).TripRoom],
  ['/walk/:id', '/walk/1', async () => (await import('./walk/WalkPage.tsx')).WalkPage],
  ['/site/told', '/site/told', async () => (await import('./telling/TellingPage.tsx')).TellingPage],
  ['/alarms', '/alarms', async () => (await import('./alarms/AlarmsPage.tsx')).AlarmsPage],
  ['/plan', '/plan', async () => (await import('./plan/PlanRoom.tsx')).PlanRoom],
  ['/shelf', '/shelf', async () => (await import('./shelf/ShelfRoom.tsx')).ShelfRoom],
  ['/shelf/labels', '/shelf/labels', async () => (await import('./shelf/LabelsPage.tsx')).LabelsPage],
  ['/ledger', '/ledger', async () => (await import('./ledger/LedgerRoom.tsx')).LedgerRoom],
  ['/ledger/report', '/ledger/report', async () => (await import('./ledger/ReportPage.tsx')).ReportPage],
  ['/ledger/:id', '/ledger/1', async () => (await import('./ledger/RecordPage.tsx')).RecordPage],
  ['/rig', '/rig', async () => (await import('./rig/RigRoom.tsx')).RigRoom],
  ['/rig/add', '/rig/add', async () => (await import('./setUp/SetUp.tsx')).AddSensor],
  ['/rig/:subject/:id', '/rig/device/1', async () => (await import('./rig/ThingPage.tsx')).ThingPage],
  ['/rig/:subject/:id/copy', '/rig/device/1/copy', async () => (await import('./setUp/SetUp.tsx')).CopyThing],
  [
    '/rig/connection/:id',
    '/rig/connection/1',
    async () => (await import('./connections/ConnectionPage.tsx')).ConnectionPage,
  ],
  ['/rig/position/:id/line', '/rig/position/1/line', async () => (await import('./connections/LinePage.tsx')).LinePage],
  ['/site/backup', '/site/backup', async () => (await import('./site/BackupPage.tsx')).BackupPage],
  ['/site/changes', '/site/changes', async () => (await import('./site/ChangesPage.tsx')).ChangesPage],
]

/** What may be said once it is known, and never while it is being loaded. */
const ABSENCE = /\b(no|none|nothing|nobody|never)\b[^.]{0,60}/i

it.each(PAGES)('%s says nothing of what is not there while it loads', async (path, at, load) => {
  const Page = await load()
  // The site is known, and everything else is slow.
  answering({ '/api/site': SITE })
  const fetched = globalThis.fetch
  vi.stubGlobal('fetch', (input: Request | string) => {
    const { pathname } = new URL(typeof input === 'string' ? input : input.url, location.href)
    return pathname === '/api/site' ? fetched(input) : new Promise(() => undefined)
  })
  const { container } = show(<Page />, { path, at })
  await act(() => new Promise((resolve) => setTimeout(resolve, 20)))
  expect(words(container)).not.toMatch(ABSENCE)
})
