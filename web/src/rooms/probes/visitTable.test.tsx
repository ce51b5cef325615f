// @vitest-environment happy-dom
import type { VisitSummary } from '@frustum/contract'
import { afterEach, expect, it } from 'vitest'
import { answering, leavePage, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { probeOf } from '../../../../lab/src/fixtures/probeViews.ts'
import { NOW } from '../../../../lab/src/fixtures/visitViews.ts'
import { VisitTable } from './VisitTable.tsx'

afterEach(leavePage)

it('tells what was cleaned from what was adjusted, and states as left only where it was read', () => {
  answering({})
  const probe = probeOf('ph')
  const visit: VisitSummary = {
    id: 'a',
    at: NOW,
    procedure: 'ph-two-point',
    name: 'Two points',
    operator: 'S. Osk',
    asFound: 0.12,
    asLeft: 0,
    verified: false,
    uncertainty: 0.02,
    fouling: null,
    adjusted: true,
    work: 'adjusted',
  }
  const visits: VisitSummary[] = [visit, { ...visit, id: 'b', work: 'cleaned', verified: true, asLeft: 0.02 }]
  const { container } = show(<VisitTable probe={{ ...probe, visits }} timeZone="UTC" />)
  const rows = [...container.querySelectorAll<HTMLElement>('tbody tr')].map(words)
  expect(rows[0]).toMatch(/not verified.*adjusted/)
  expect(rows[1]).toMatch(/\+0\.02.*cleaned/)
  expect(rows.join()).not.toContain('left alone')
})
