// @vitest-environment happy-dom
import type { PlanView, ShelfView } from '@frustum/contract'
import { DAY_MS, kindOf, registerKind, sensorKinds } from '@frustum/core'
import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { answering, leavePage, show, words } from '../../../lab/src/fixtures/page.tsx'
import { fleetRowOf, rowOf } from '../../../lab/src/fixtures/probeViews.ts'
import { TURBIDITY } from '../../../lab/src/fixtures/turbidity.ts'
import { NOW, SITE } from '../../../lab/src/fixtures/visitViews.ts'
import { PlanRoom } from './plan/PlanRoom.tsx'
import { ProbesRoom } from './probes/ProbesRoom.tsx'
import { RoundsRoom } from './rounds/RoundsRoom.tsx'
import { ShelfRoom } from './shelf/ShelfRoom.tsx'

afterEach(leavePage)

/** A kind that no page was told of stands in every room like the others. */
let forget: () => void
beforeAll(() => {
  forget = registerKind(TURBIDITY)
})
afterAll(() => forget())

const EMPTY_PLAN: PlanView = {
  today: NOW,
  daysAhead: 84,
  trips: [],
  risks: {},
  consumables: [],
  tripsAlone: 0,
  unfit: [],
  calendarPath: '/api/calendar/x.ics',
}
const lotOf = (standard: string, label: string, kind: ShelfView['lots'][number]['kind']) => ({
  id: label.length,
  standard,
  label,
  kind,
  lot: `L-${label.length}`,
  expiresOn: NOW + 300 * DAY_MS,
  openedOn: null,
  keepsDays: 90,
  discardedAt: null,
  volume: 500,
  left: 420,
  storage: 'Dark',
  ownTable: null,
  goodUntil: NOW + 90 * DAY_MS,
  state: 'good' as const,
  uses: [],
})

describe('Rounds', () => {
  it('has a row for a sensor of every kind, with its quantity, its state and what to do', async () => {
    const rows = sensorKinds().map((kind, i) =>
      rowOf(kind, {
        position: `${kind}-${i}`,
        ...(i === 0 ? { driftState: 'due' as const, state: 'due' as const } : {}),
      }),
    )
    answering({
      '/api/site': SITE,
      '/api/plan': EMPTY_PLAN,
      '/api/rounds': { rows, empty: [], trips: [], checkNow: [], disagreeing: [], unfit: [], toDo: [] },
      '/api/live': [],
    })
    show(<RoundsRoom />)
    await screen.findByRole('heading', { name: 'One to do within three days' })
    for (const row of rows) {
      const item = screen.getByText(row.position).closest('li') as HTMLElement
      expect(words(item)).toContain(row.scale.unit)
      expect(words(item)).toContain(row.verb)
      expect(within(item).getAllByRole('link').length).toBeGreaterThan(0)
    }
    expect(words(screen.getByText('turbidity-7').closest('li') as HTMLElement)).toContain('FNU')
  })

  it.each([
    ['viewer', []],
    ['operator', ['/trips/new', '/bench/start/XX-1']],
  ])('offers a %s nothing to press that would be refused', async (role, expected) => {
    const rounds = { empty: [], trips: [], checkNow: [], disagreeing: [], unfit: [], toDo: [] }
    answering({
      '/api/site': SITE,
      '/api/plan': EMPTY_PLAN,
      '/api/rounds': { ...rounds, rows: [rowOf('ph', { position: 'XX-1' })] },
      '/api/live': [],
      '/api/me': { signIn: true, role, person: { id: 1, name: 'C. Holm' } },
    })
    show(<RoundsRoom />)
    await screen.findByText('XX-1')
    const leadsTo = () => screen.getAllByRole('link').map((l) => l.getAttribute('href') ?? '')
    await waitFor(() =>
      expect(leadsTo().filter((to) => to === '/trips/new' || to.startsWith('/bench/start'))).toEqual(expected),
    )
  })

  it('says how to begin where there is no sensor', async () => {
    answering({
      '/api/site': SITE,
      '/api/plan': EMPTY_PLAN,
      '/api/rounds': { rows: [], empty: [], trips: [], checkNow: [], disagreeing: [], unfit: [], toDo: [] },
    })
    const { container } = show(<RoundsRoom />)
    await screen.findByRole('heading')
    expect(words(container)).toMatch(/No sensor/)
  })

  it('keeps the room and says what is safe when the server cannot be reached', async () => {
    answering({})
    show(<RoundsRoom />)
    const alert = await screen.findByRole('alert', undefined, { timeout: 20_000 })
    expect(words(alert)).toContain('The server cannot be reached.What was captured is safe there.')
    expect(within(alert).getByRole('button', { name: 'Try again' })).toBeTruthy()
  })
})

describe('Probes', () => {
  it('lists a sensor of every kind and finds it by its words', async () => {
    const rows = sensorKinds().map((kind, i) => fleetRowOf(kind, { position: `P-${i}` }))
    answering({ '/api/site': SITE, '/api/probes': { rows, unfit: [], confirmed: { count: 0, first: 0, firstTwo: 0 } } })
    show(<ProbesRoom />)
    const find = await screen.findByLabelText('Find')
    await userEvent.type(find, 'nothing like it')
    expect(await screen.findByText(/No match/)).toBeTruthy()
  })
})

describe('Plan', () => {
  it('has a visit of a kind of its own on its trip, with its standard in the kit', async () => {
    const visit = {
      position: 'TU-1',
      quantity: 'Turbidity',
      spot: 'Outlet',
      due: NOW,
      opens: NOW - DAY_MS,
      moved: false,
      procedure: 'One formazin',
      minutes: 9,
      consequence: 2,
      outside: 0.02,
    }
    const trip = {
      id: 't',
      place: 'Pond',
      day: NOW,
      arrival: NOW,
      visits: [visit],
      timeline: { entries: [], lead: 0, minutes: 9, handsOn: 9 } as unknown as PlanView['trips'][number]['timeline'],
      kit: [{ label: 'Formazin 10 FNU', lot: 'F-1', pours: 3, milliliters: 60, warning: null }],
      needs: ['3 cups'],
    }
    answering({
      '/api/site': SITE,
      '/api/plan': { ...EMPTY_PLAN, trips: [trip], risks: { 'TU-1': [0.02, 0.03] }, tripsAlone: 1 },
    })
    const { container } = show(<PlanRoom />)
    await screen.findByRole('heading', { name: /1 trip/ })
    expect(words(container)).toContain('Turbidity')
    expect(words(container)).toContain('Formazin 10 FNU')
  })
})

describe('Shelf', () => {
  it('puts bottles under the kind that they are for, with what they are worth at a temperature', async () => {
    const lots = [
      lotOf('pH10.01', 'pH 10.01', 'ph'),
      lotOf('kcl-1413', '1413 µS/cm', 'conductivity'),
      lotOf('formazin-10', 'Formazin 10 FNU', TURBIDITY.id),
    ]
    answering({ '/api/site': SITE, '/api/shelf': { lots, toBuy: [] } })
    const { container } = show(<ShelfRoom />)
    await screen.findByRole('heading', { name: 'Turbidity' })
    expect(screen.getAllByRole('heading', { level: 2 }).map(words)).toEqual(
      expect.arrayContaining(['pH', 'Conductivity', kindOf(TURBIDITY.id).name]),
    )
    expect(words(container)).toContain('10.0 FNU')
    const field = screen.getByLabelText(/Values at/)
    await userEvent.clear(field)
    await userEvent.type(field, '20')
    expect(words(container)).toContain('pH 10.060')
    await userEvent.clear(field)
    await userEvent.type(field, 'warm')
    expect(words(screen.getByRole('alert'))).toContain('Enter a temperature from -5.0 °C to 110.0 °C.')
  })
})
