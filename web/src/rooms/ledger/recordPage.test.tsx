// @vitest-environment happy-dom
import type { RecordView } from '@frustum/contract'
import { difference } from '@frustum/core'
import { afterEach, expect, it } from 'vitest'
import { answering, leavePage, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { RecordPage } from './RecordPage.tsx'

afterEach(leavePage)

const STARTED = Date.UTC(2024, 11, 31, 23, 40)

/** A finished visit to a nitrate electrode, at midnight of a year that isn't this one. */
const VIEW: RecordView = {
  id: 'a1',
  site: { name: 'Mill', timeZone: 'Europe/Berlin' },
  position: 'M-NO3-1',
  place: 'Hall',
  spot: 'Outlet',
  serialNumber: '',
  model: 'ISE 4',
  quantity: 'Nitrate',
  device: 'Transmitter 2',
  setting: 'shows mg/L of NO₃-N',
  tolerance: difference(15, '%', 1),
  verdict: 'out of tolerance',
  operator: 'A. Fenn',
  startedAt: STARTED,
  closedAt: STARTED + 25 * 60_000,
  outcome: 'done',
  known: 'at its start',
  fromList: false,
  record: {
    version: 1,
    procedureName: 'Two points',
    work: 'adjusted',
    lines: [],
    points: [],
    result: null,
    decisions: [],
    applied: null,
    asFound: { ...difference(21.4, '%', 1), signed: true },
    asLeft: null,
    drift: null,
  },
  entries: {},
  readings: {},
  corrections: [],
}

const open = async (view: RecordView) => {
  answering({ '/api/ledger/a1': view })
  const page = show(<RecordPage />, { path: '/ledger/:id', at: '/ledger/a1' })
  await page.findByRole('heading', { level: 1 })
  return page
}

it('a record states the ion, the year, the device with its setting, the tolerance and the verdict', async () => {
  const { container } = await open(VIEW)
  const header = words(container.querySelector('header') as HTMLElement)
  expect(header).toContain('Nitrate · Hall · Outlet · ISE 4')
  expect(header).not.toContain('serial')
  // The site's own midnight, not the browser's or UTC.
  expect(header).toContain('A. Fenn, 1 Jan 2025, 00:40 to 01:05 · Mill')
  const facts = Object.fromEntries(
    [...container.querySelectorAll('dl > div')].map((fact) => [
      fact.querySelector('dt')?.textContent,
      words(fact.querySelector('dd') as HTMLElement),
    ]),
  )
  expect(facts).toEqual({
    'What was done': 'Adjusted',
    'As found': '+21.4 % · out of tolerance',
    'As left': 'not verified',
    Tolerance: '± 15.0 %',
    Device: 'Transmitter 2 · shows mg/L of NO₃-N',
  })
})

it('a record without a reading before the change gives no verdict', async () => {
  const { container } = await open({ ...VIEW, verdict: null, record: { ...VIEW.record, asFound: null } })
  expect(words(container)).toContain('As foundnot measured')
  expect(words(container)).not.toContain('of tolerance')
})
