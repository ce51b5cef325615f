import type { LedgerRow, RecordView, VisitView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

const DAY = 86_400_000
const asker = { clientId: '6f0b7a9e-40f5-4a0e-9d3c-0a4a3c0c1b11', operator }

it.each([
  ['back', -DAY, /the clock was set back by 24 h/],
  ['back', -365 * DAY, /the clock was set back by 365 days/],
  ['forward', DAY, null],
  ['forward', 365 * DAY, null],
])(
  'with the clock set %s by %i ms in the middle, a visit goes on in its order, and its record says so',
  async (_, by, said) => {
    const { ask, get, clock } = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient')
    const { body: visit } = await ask<VisitView>('visits', {
      ...asker,
      position: 'T1-pH',
      procedure: 'ph-check',
      standards: { first: 'pH7.00', second: 'pH10.01' },
    })
    expect((await ask(`visits/${visit.id}/skip`, { ...asker, step: visit.current, reason: 'No flow' })).status).toBe(
      200,
    )
    clock.set(clock.now() + by)
    const { status } = await ask(`visits/${visit.id}/abandon`, { ...asker, reason: 'it has to go' })
    expect(status).toBe(200)
    const { record, closedAt, outcome } = await get<RecordView>(`ledger/${visit.id}`)
    expect([outcome, closedAt]).toEqual(['abandoned', clock.now()])
    expect(record.lines.map((l) => l.seq)).toEqual(record.lines.map((_, i) => i + 1))
    const last = plain(record.lines.at(-1)?.sentence ?? '')
    if (said) expect(last).toMatch(said)
    else expect(last).not.toContain('clock')
    expect((await get<LedgerRow[]>('ledger')).map((r) => r.id)).toEqual([visit.id])
    for (const room of ['rounds', 'probes', 'plan', 'rig', 'shelf', 'probes/T1-pH']) {
      expect([room, (await ask(room)).status]).toEqual([room, 200])
    }
  },
)
