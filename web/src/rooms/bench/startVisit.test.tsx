// @vitest-environment happy-dom
import type { ProbeView, StartingView } from '@frustum/contract'
import { commissioningFields, difference, proceduresFor, quantity, registerKind, type SensorKind } from '@frustum/core'
import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { type Answers, answering, leavePage, refuse, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { probeOf } from '../../../../lab/src/fixtures/probeViews.ts'
import { TURBIDITY } from '../../../../lab/src/fixtures/turbidity.ts'
import { SITE, visitAfter } from '../../../../lab/src/fixtures/visitViews.ts'
import { StartVisit } from './StartVisit.tsx'

afterEach(leavePage)

const LOT = { lot: 'A-1', expired: false, openTooLong: false, daysOver: 0, left: 400, storage: 'Dark', closed: false }

/** What the server says of a position before a visit. */
function startingAt(kind: SensorKind, change: Partial<StartingView> = {}): StartingView {
  const subject = {
    kind,
    device: {},
    shows: 'value' as const,
    linked: false,
    adjustsBy: 'numbers' as const,
    twins: [],
    processValue: 8,
  }
  const occupied = change.occupied ?? true
  const procedures = proceduresFor(subject)
    .filter((p) => occupied || p.baseline)
    .map((p, i) => ({
      id: p.id,
      name: p.name,
      summary: p.summary,
      needs: p.needs,
      minutes: p.handsOnMinutes,
      roles: p.roles.map((r) => ({
        role: r.role,
        label: r.label,
        choices: [...r.propose(subject)],
        pours: p.pours[r.role] ?? 1,
      })),
      opening: p.baseline ? commissioningFields(occupied) : [],
      proposed: i === 1,
      unmet: [],
    }))
  return {
    position: 'XX-1',
    positionId: 7,
    occupied,
    place: 'Hall',
    spot: 'Outlet',
    kind,
    quantity: 'pH',
    cautions: ['Acid in this room: goggles.'],
    authorityRule: null,
    process: quantity(8.2, 'pH', 2),
    tolerance: difference(0.1, 'pH', 2),
    setting: '',
    numbersChanged: null,
    procedures,
    lots: { 'pH7.00': LOT, 'pH10.01': { ...LOT, expired: true, daysOver: 3 } },
    last: null,
    ...change,
  }
}

function open(starting: StartingView, answers: Answers = {}, probe: ProbeView = probeOf('ph')) {
  const sent = answering({
    '/api/site': SITE,
    '/api/probes/XX-1/starting': starting,
    '/api/probes/XX-1': probe,
    ...answers,
  })
  const page = show(<StartVisit />, { path: '/bench/start/:position', at: '/bench/start/XX-1?trip=t-1' })
  return { ...page, sent }
}

const started = visitAfter({ kind: 'ph', procedure: 'ph-two-point' })

describe('the start of a visit', () => {
  it('says where one stands, offers the proposed way first, and starts it with what is chosen', async () => {
    const { sent, address, container } = open(startingAt('ph'), { '/api/visits': started })
    await screen.findByRole('heading', { name: 'XX-1' })
    expect(words(container)).toContain('Hall, Outlet · pH, normally pH 8.20, limit ± 0.10 pH')
    expect(screen.getByText('Acid in this room: goggles.')).toBeTruthy()
    const ways = screen.getAllByRole('radio')
    expect((ways[0] as HTMLInputElement).checked).toBe(true)
    expect(words(ways[0]?.closest('label') as HTMLElement)).toContain('Two points')
    await userEvent.click(screen.getByRole('button', { name: /^Start/ }))
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]).toMatchObject({
      path: '/api/visits',
      body: {
        position: 'XX-1',
        procedure: 'ph-two-point',
        standards: { first: 'pH7.00', second: 'pH10.01' },
        trip: 't-1',
        opening: {},
      },
    })
    await waitFor(() => expect(address()).toBe(`/bench/${started.id}`))
  })

  it('warns of a lot that expired, and of none on the Shelf, at the standard itself', async () => {
    open(startingAt('ph'))
    const second = within((await screen.findByText('Second buffer')).closest('label') as HTMLElement)
    expect(second.getByText('lot A-1 expired 3 days ago')).toBeTruthy()
    await userEvent.selectOptions(second.getByRole('combobox'), 'pH4.01')
    expect(second.getByText('none on the Shelf')).toBeTruthy()
  })

  it('does not start with the same standard twice, and says why', async () => {
    const { sent } = open(startingAt('ph'))
    const second = within((await screen.findByText('Second buffer')).closest('label') as HTMLElement)
    await userEvent.selectOptions(second.getByRole('combobox'), 'pH7.00')
    expect(screen.getByText(/Two of them are the same; a slope needs different ones/)).toBeTruthy()
    const start = screen.getByRole('button', { name: /^Start/ })
    expect((start as HTMLButtonElement).disabled).toBe(true)
    await userEvent.keyboard(' ')
    expect(sent).toEqual([])
  })

  it('shows what should come first, and starts before it only with a reason', async () => {
    const starting = startingAt('ph')
    const procedures = starting.procedures.map((p) => ({
      ...p,
      unmet: [{ position: 'XX-2', since: null, why: 'It is computed from that one.' }],
    }))
    const { sent } = open({ ...starting, procedures }, { '/api/visits': started })
    const first = await screen.findByRole('heading', { name: 'These come first' })
    const link = within(first.closest('section') as HTMLElement).getByRole('link', { name: 'XX-2' })
    expect(link.getAttribute('href')).toBe('/bench/start/XX-2?trip=t-1')
    await userEvent.click(screen.getByRole('button', { name: /^Start anyway/ }))
    const dialog = within(await screen.findByRole('dialog'))
    await userEvent.click(dialog.getByRole('button', { name: 'Start anyway' }))
    expect(dialog.getByText('Say why in a few words.')).toBeTruthy()
    expect(sent).toEqual([])
    await userEvent.click(dialog.getByRole('button', { name: 'Only this one is asked for' }))
    await userEvent.click(dialog.getByRole('button', { name: 'Start anyway' }))
    await waitFor(() => expect(sent[0]?.body.override).toBe('Only this one is asked for'))
  })

  it('repeats the last visit in one press, with its standards', async () => {
    const { sent } = open(startingAt('ph', { last: 'ph-check' }), { '/api/visits': started })
    await userEvent.click(await screen.findByRole('button', { name: 'As last time: Check only' }))
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]?.body).toMatchObject({ procedure: 'ph-check', standards: { first: 'pH7.00' }, trip: 't-1' })
  })

  it('a buffer that is not listed is entered here; a bottle, where there is none', async () => {
    const added = { title: 'Buffer 6.86', subject: 'standard', id: 3 }
    const { sent } = open(startingAt('ph'), { '/api/rig/standard': added })
    const [first] = await screen.findAllByRole('button', { name: 'Not listed' })
    await userEvent.click(first as HTMLElement)
    const form = within(screen.getByRole('form', { name: 'New standard' }))
    // The kind is known: neither it nor what is asked of other kinds is asked.
    expect(form.queryByLabelText('For')).toBeNull()
    expect(form.queryByLabelText('Ion')).toBeNull()
    await userEvent.type(form.getByLabelText(/^Name|^Label|^What/), 'Buffer 6.86')
    await userEvent.type(form.getByLabelText('Value on its label'), '6.86')
    await userEvent.click(form.getByRole('button', { name: 'Save' }))
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]?.body).toMatchObject({ values: { kind: 'ph', label: 'Buffer 6.86', values: '6.86' } })
    await waitFor(() => expect(screen.queryByRole('form', { name: 'New standard' })).toBeNull())
    expect(screen.getByRole('button', { name: /^Start/ })).toBeTruthy()
  })

  it('keeps the page and the choice when the server refuses', async () => {
    const problem = { code: 'visit-open', message: 'A visit is open.', hint: 'Finish it.' }
    const { sent, address } = open(startingAt('ph'), { '/api/visits': refuse(409, problem) })
    const radio = await screen.findByRole('radio', { name: /Check only/ })
    await userEvent.click(radio)
    await userEvent.click(screen.getByRole('button', { name: /^Start/ }))
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(address()).toBe('/bench/start/XX-1?trip=t-1')
    expect((screen.getByRole('radio', { name: /Check only/ }) as HTMLInputElement).checked).toBe(true)
  })

  it('goes to the visit that is open already', async () => {
    const openVisit = { id: started.id, operator: 'S. Osk', since: 0, step: 'Rinse', pending: false }
    const { address } = open(startingAt('ph'), {}, probeOf('ph', { openVisit }))
    await waitFor(() => expect(address()).toBe(`/bench/${started.id}`))
  })

  it('does not call a position empty while its sensor is still loading', async () => {
    open(startingAt('ph'))
    await screen.findByText('What do you want to do?')
    expect(screen.queryByText(/No sensor/)).toBeNull()
  })

  it('an empty position offers both: the sensor is in use already, or a new one is commissioned', async () => {
    const { sent } = open(startingAt('ph', { occupied: false }), { '/api/visits': started })
    await screen.findByText(/No sensor on record/)
    expect(screen.getByRole('button', { name: 'Already in use: check it' })).toBeTruthy()
    // Pens have neither; who has them types them.
    await userEvent.type(screen.getByLabelText('Serial number (optional)'), 'G-17')
    await userEvent.type(screen.getByLabelText('Model (optional)'), 'glass')
    await userEvent.click(screen.getByRole('button', { name: /^Start/ }))
    await waitFor(() => expect(sent[0]?.body.opening).toEqual({ serial: 'G-17', model: 'glass' }))
  })
})

describe('a kind that is registered at run time', () => {
  let forget: () => void
  beforeAll(() => {
    forget = registerKind(TURBIDITY)
  })
  afterAll(() => forget())

  it('has its start form, with its own standards and words', async () => {
    const starting = startingAt(TURBIDITY.id, {
      quantity: 'Turbidity',
      process: quantity(6, 'FNU', 1),
      tolerance: difference(1, 'FNU', 1),
      lots: { 'formazin-10': LOT },
    })
    const { container, sent } = open(starting, { '/api/visits': started }, probeOf(TURBIDITY.id))
    await screen.findByRole('heading', { name: 'XX-1' })
    expect(words(container)).toContain('Turbidity, normally 6.0 FNU, limit ± 1.0 FNU')
    expect(screen.getByRole('option', { name: 'Formazin 10 FNU' })).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: /^Start/ }))
    await waitFor(() =>
      expect(sent[0]?.body).toMatchObject({ procedure: 'turbidity-one-point', standards: { first: 'formazin-10' } }),
    )
  })
})
