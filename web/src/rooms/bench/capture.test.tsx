// @vitest-environment happy-dom
import type { VisitView } from '@frustum/contract'
import { say } from '@frustum/core'
import { act, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { type Answers, answering, leavePage, refuse, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { captured, liveAt, visitAfter } from '../../../../lab/src/fixtures/visitViews.ts'
import { Stage } from './Stage.tsx'
import { isRefused, withQueued } from './useVisitActions.ts'

afterEach(leavePage)

const TO_FIRST_POINT = [
  { type: 'done', step: 'hold' },
  captured('ph', 'found-process', { value: 8.1 }),
  captured('ph', 'found-standard', { code: 'pH7.00' }),
  { type: 'done', step: 'clean' },
] as const
const atPoint = (view: Partial<VisitView> = {}, setup = {}) =>
  visitAfter({
    kind: 'ph',
    procedure: 'ph-two-point',
    entries: TO_FIRST_POINT,
    view,
    setup: { linked: true, ...setup },
  })

const stage = (visit: VisitView, live: ReturnType<typeof liveAt> | null, answers: Answers = {}) => {
  const sent = answering(answers)
  const page = show(<Stage visit={visit} live={live} trace={live?.trace ?? []} mine parts={{ current: new Set() }} />)
  return { ...page, sent }
}
const stable = (change = {}) => liveAt('point-1', { opinion: { state: 'stable', secondsToGo: 0 }, ...change })
const main = () => screen.getByTestId('main') as HTMLButtonElement

describe('a reading that is captured', () => {
  it('waits for the reading before anything can be pressed', () => {
    stage(atPoint(), null)
    expect(screen.getByRole('status').textContent).toContain('reading')
    expect(screen.queryByTestId('main')).toBeNull()
  })

  it('cannot be pressed while it settles, and says how long that takes and to what', () => {
    const { container } = stage(atPoint(), liveAt('point-1'))
    expect(words(container)).toContain('About 43 s, then it is sure to 0.03 pH')
    expect(main().disabled).toBe(true)
  })

  it('is taken by the button or the space bar once it is stable, as one action of this person', async () => {
    const visit = atPoint()
    const { sent } = stage(visit, stable(), { [`/api/visits/${visit.id}/capture`]: visit })
    expect(main().disabled).toBe(false)
    await userEvent.keyboard(' ')
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(sent[0]?.body).toMatchObject({ step: 'point-1', operator: 'Operator' })
    expect(sent[0]?.body).not.toHaveProperty('earlyReason')
    expect(String(sent[0]?.body.actionId)).toMatch(/^[0-9a-f-]{36}$/)
  })

  it('is taken early only with a reason, which goes with it', async () => {
    const visit = atPoint()
    const { sent } = stage(visit, liveAt('point-1'), { [`/api/visits/${visit.id}/capture`]: visit })
    await userEvent.keyboard('e')
    const dialog = within(await screen.findByRole('dialog'))
    await userEvent.type(dialog.getByLabelText('Reason'), 'no')
    await userEvent.keyboard('{Enter}')
    expect(dialog.getByRole('alert').textContent).toBe('Say why in a few words.')
    expect(sent).toEqual([])
    await userEvent.click(dialog.getByRole('button', { name: 'Known slow sensor' }))
    await userEvent.click(dialog.getByRole('button', { name: 'Capture now' }))
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ step: 'point-1', earlyReason: 'Known slow sensor' }))
  })

  it('is held up by a wrong cup even where it is stable, with what to do', () => {
    const finding = {
      code: 'wrong-standard' as const,
      severity: 'stop' as const,
      sentence: say`This reads like ${{ value: 10.01, unit: 'pH', decimals: 2 }}.`,
      advice: 'Check the cup.',
      numbers: {},
    }
    const { container } = stage(atPoint(), stable({ finding }))
    expect(screen.getByTestId('verdict').textContent).toBe('wrong cup?')
    expect(words(container)).toContain('This reads like pH 10.01. Check the cup.')
    expect(main().disabled).toBe(true)
  })

  it('is not taken from a device that does not answer', () => {
    const { container } = stage(atPoint(), stable({ blindSince: Date.now() - 5000 }))
    expect(words(container)).toContain('blind')
    expect(main().disabled).toBe(true)
    expect((screen.getByRole('button', { name: /early/ }) as HTMLButtonElement).disabled).toBe(true)
  })

  it('is said to be pouring from a lot, and what speaks against that', () => {
    const lot = { lot: 'A-7', expired: true, openTooLong: false, daysOver: 1, left: 80, storage: 'Dark', closed: false }
    const { container } = stage(atPoint({ lot }), liveAt('point-1'))
    expect(words(container)).toContain('Pour from lot A-7: expired 1 day ago. Take a fresh one if you have it.')
  })

  it('may be skipped where the step allows it, with a reason', async () => {
    const visit = visitAfter({ kind: 'ph', procedure: 'ph-two-point', entries: [{ type: 'done', step: 'hold' }] })
    const { sent } = stage(visit, liveAt('found-process'), { [`/api/visits/${visit.id}/skip`]: visit })
    // In the field that has the focus a letter is a letter.
    await waitFor(() => expect(document.activeElement?.tagName).toBe('INPUT'))
    await userEvent.keyboard('s')
    expect(screen.queryByRole('dialog')).toBeNull()
    act(() => (document.activeElement as HTMLElement).blur())
    await userEvent.keyboard('s')
    const dialog = within(await screen.findByRole('dialog'))
    await userEvent.click(dialog.getByRole('button', { name: 'No flow' }))
    await userEvent.click(dialog.getByRole('button', { name: 'Skip step' }))
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ step: 'found-process', reason: 'No flow' }))
  })

  it('a standard itself cannot be skipped', () => {
    stage(atPoint(), liveAt('point-1'))
    expect(screen.queryByRole('button', { name: /Skip/ })).toBeNull()
  })

  it('waits in this browser for the network where it may, and never where it is of its moment', async () => {
    const visit = visitAfter({ kind: 'ph', procedure: 'ph-two-point' })
    const { store } = stage(visit, null, {})
    await userEvent.click(main())
    await waitFor(() => expect(store.getState().outbox.waiting).toMatchObject([{ action: 'done' }]))
    const reading = stage(atPoint(), stable(), {})
    const buttons = screen.getAllByTestId('main')
    await userEvent.click(buttons.at(-1) as HTMLElement)
    await new Promise((resolve) => setTimeout(resolve, 50))
    expect(reading.store.getState().outbox.waiting).toEqual([])
  })
})

describe('what the server does not take', () => {
  const noAnswer = (status: number) => refuse(status, { code: 'x', message: 'Not now.' })

  it.each([401, 408, 425, 429, 500, 502, 503])('%i: the step is queued, and the visit continues', async (status) => {
    const visit = visitAfter({ kind: 'ph', procedure: 'ph-two-point' })
    const { store } = stage(visit, null, { [`/api/visits/${visit.id}/done`]: noAnswer(status) })
    await userEvent.click(main())
    await waitFor(() => expect(store.getState().outbox.waiting).toMatchObject([{ action: 'done' }]))
    const shown = withQueued(visit, store.getState().outbox.waiting)
    expect([visit.current, shown.current]).toEqual(['hold', 'found-process'])
    expect(shown.steps.slice(0, 2).map((s) => s.status)).toEqual(['done', 'now'])
  })

  it.each([400, 403, 404, 409])('%i: the step is refused for good, and said so', async (status) => {
    const visit = visitAfter({ kind: 'ph', procedure: 'ph-two-point' })
    const { store, sent } = stage(visit, null, { [`/api/visits/${visit.id}/done`]: noAnswer(status) })
    await userEvent.click(main())
    await waitFor(() => expect(sent).toHaveLength(1))
    expect(store.getState().outbox.waiting).toEqual([])
  })

  it('stays queued until it is taken, in order, and nothing is sent before it', async () => {
    const visit = visitAfter({ kind: 'ph', procedure: 'ph-two-point' })
    const { store, sent } = stage(visit, null, { [`/api/visits/${visit.id}/done`]: noAnswer(503) })
    await userEvent.click(main())
    await waitFor(() => expect(store.getState().outbox.waiting).toHaveLength(1))
    await userEvent.click(main())
    await waitFor(() => expect(store.getState().outbox.waiting).toHaveLength(2))
    expect(sent).toHaveLength(1)
  })

  it('is refused or not by its status alone: a proxy, silence or a page in its place refuse nothing', () => {
    expect(['FETCH_ERROR', 'PARSING_ERROR', 'TIMEOUT_ERROR', 500, 504].map((status) => isRefused({ status }))).toEqual(
      Array(5).fill(false),
    )
    expect([400, 409, 422].map((status) => isRefused({ status }))).toEqual(Array(3).fill(true))
  })
})

describe('readings that are typed', () => {
  const BY_EYE = { shows: 'value', linked: false } as const
  const typing = (answers: Answers = {}, change: Parameters<typeof liveAt>[1] = {}) => {
    const visit = atPoint({}, BY_EYE)
    const live = liveAt('point-1', { unit: 'pH', decimals: 2, value: 7.01, ...change })
    return { visit, ...stage(visit, live, { [`/api/visits/${visit.id}/typed`]: visit, ...answers }) }
  }
  const fields = () => ({
    value: screen.getByLabelText('pH shown') as HTMLInputElement,
    temperature: screen.getByLabelText('Temperature') as HTMLInputElement,
  })
  const alerts = () => screen.getAllByRole('alert').map(words).join(' ')

  it('takes a comma and a point, keeps the temperature, and is ready for the next value', async () => {
    const { sent } = typing()
    const { value, temperature } = fields()
    await userEvent.type(value, '7,03')
    await userEvent.type(temperature, '22.0')
    await userEvent.keyboard('{Enter}')
    await waitFor(() =>
      expect(sent[0]?.body).toMatchObject({ step: 'point-1', value: '7,03', temperature: '22.0', still: false }),
    )
    await waitFor(() => expect(value.value).toBe(''))
    expect(temperature.value).toBe('22.0')
    expect(document.activeElement).toBe(value)
  })

  it('survives a reload until it is sent, and not longer than it is a reading of now', async () => {
    const texts = () => Object.values(fields()).map((field) => field.value)
    const first = typing()
    await userEvent.type(fields().value, '7.0')
    await userEvent.type(fields().temperature, '22.4')
    first.unmount()
    const again = typing()
    expect(texts()).toEqual(['7.0', '22.4'])
    await userEvent.click(screen.getByRole('button', { name: 'It stood still: keep it' }))
    await waitFor(() => expect(again.sent).toHaveLength(1))
    await waitFor(() => expect(fields().value.value).toBe(''))
    again.unmount()
    const fresh = typing()
    expect(texts()).toEqual(['', ''])
    await userEvent.type(fields().value, '7.1')
    fresh.unmount()
    vi.setSystemTime(Date.now() + 16 * 60_000)
    typing()
    expect(texts()).toEqual(['', ''])
    vi.useRealTimers()
  })

  it('is kept at once where it stood still by the own watch', async () => {
    const { sent } = typing()
    const { value, temperature } = fields()
    await userEvent.type(value, '7.03')
    await userEvent.type(temperature, '22')
    await userEvent.click(screen.getByRole('button', { name: 'It stood still: keep it' }))
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ still: true, temperatureFrom: 'device' }))
  })

  it('can be entered without a connection, and the visit continues', async () => {
    const visit = atPoint({}, BY_EYE)
    const { store } = stage(visit, null, {
      [`/api/visits/${visit.id}/typed`]: refuse(503, { code: 'x', message: 'Off' }),
    })
    const { value, temperature } = fields()
    await userEvent.type(value, '7.03')
    await userEvent.type(temperature, '22')
    await userEvent.click(screen.getByRole('button', { name: 'It stood still: keep it' }))
    await waitFor(() => expect(store.getState().outbox.waiting).toMatchObject([{ action: 'typed' }]))
    const shown = withQueued(visit, store.getState().outbox.waiting)
    // What the server has not seen yet is assumed neither for the lot nor for the temperature.
    expect(shown).toMatchObject({ current: visit.ahead[0]?.key, lot: null, assumedTemperature: null })
    const noted = { action: 'typed', body: { step: 'point-1', still: false } } as never
    expect(withQueued(visit, [noted]).current).toBe('point-1')
  })

  it('is one screen with the key of the device in the same cup, and both are sent in order', async () => {
    const setup = { ...BY_EYE, adjustsBy: 'key', calibrationKey: 'CAL' } as const
    const entries = [
      { type: 'done', step: 'hold' },
      captured('ph', 'found-process', { value: 8.1 }),
      captured('ph', 'found-standard', { code: 'pH7.00' }),
      captured('ph', 'found-second', { code: 'pH10.01' }),
      { type: 'decided', step: 'verdict', decision: 'adjust', proposed: 'adjust', note: null },
      { type: 'done', step: 'clean' },
    ] as const
    const visit = visitAfter({ kind: 'ph', procedure: 'self-ph-two-point', entries, setup })
    expect([visit.current, visit.ahead[0]?.joins]).toEqual(['point-1', 'point-1'])
    const to = (action: string) => `/api/visits/${visit.id}/${action}`
    const { sent } = stage(visit, liveAt('point-1', { unit: 'pH', value: null }), {
      [to('typed')]: visit,
      [to('fill')]: visit,
    })
    const { value, temperature } = fields()
    await userEvent.type(value, '7.12')
    await userEvent.type(temperature, '22')
    await userEvent.type(screen.getByLabelText('It shows then (optional)'), '7.01')
    await userEvent.selectOptions(screen.getByLabelText('And says'), 'good')
    await userEvent.click(screen.getByRole('button', { name: 'Save reading and key' }))
    await waitFor(() => expect(sent).toHaveLength(2))
    expect(sent.map((s) => [s.path, s.body.step])).toEqual([
      [to('typed'), 'point-1'],
      [to('fill'), visit.ahead[0]?.key],
    ])
    expect(sent[0]?.body).toMatchObject({ value: '7.12', still: true })
    expect(sent[1]?.body).toMatchObject({ values: { shown: '7.01', said: 'good' } })
  })

  it('says when to look again, and that two numbers that agree are enough', () => {
    const once = { state: 'settling', reason: 'typed-once', nextReadingIn: 9 } as const
    const { container } = typing({}, { opinion: once, at: Date.now() })
    expect(words(container)).toMatch(/7\.01 at 22\.0 °C is noted\. Look again (in \d+ s|now)/)
    expect(screen.queryByTestId('main')).toBeNull()
    expect(words(container)).not.toContain('% sure')
    leavePage()
    const twice = typing({}, { opinion: { state: 'stable', reason: 'typed-agree' } })
    expect(words(twice.container)).toContain('Twice the same: capture it.')
    expect(main().disabled).toBe(false)
  })

  it('takes a temperature in °F by its unit or by the unit beside the field, and names the thermometer', async () => {
    const { sent } = typing()
    const { value, temperature } = fields()
    await userEvent.click(screen.getByRole('button', { name: 'In °C; press for °F' }))
    await userEvent.selectOptions(screen.getByLabelText('Read from'), 'a thermometer')
    await userEvent.type(value, '7.03')
    await userEvent.type(temperature, '72')
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(alerts()).toContain('Which one?'))
    await userEvent.type(screen.getByLabelText('Which one?'), 'Glass, green')
    await userEvent.keyboard('{Enter}')
    await waitFor(() =>
      expect(sent[0]?.body).toMatchObject({
        temperature: '72 F',
        temperatureFrom: 'thermometer',
        temperatureName: 'Glass, green',
      }),
    )
  })

  it.each([
    ['', /Type the pH, -1 to 15/],
    ['seven', /"seven" is not a number/],
    ['703', /must lie within -1 to 15. Was it 7.03\? A decimal mark seems to be missing/],
  ])('names what is wrong with "%s" at its field, and sends nothing', async (typed, problem) => {
    const { sent } = typing()
    const { value, temperature } = fields()
    if (typed) await userEvent.type(value, typed)
    await userEvent.type(temperature, '22')
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(alerts()).toMatch(problem))
    expect(value.getAttribute('aria-invalid')).toBe('true')
    expect(value.value).toBe(typed)
    expect(sent).toEqual([])
  })

  it('shows the server’s word at the field and keeps what was typed', async () => {
    const visit = atPoint({}, BY_EYE)
    typing({
      [`/api/visits/${visit.id}/typed`]: refuse(400, {
        code: 'invalid',
        message: 'No.',
        fields: { value: 'Not now.' },
      }),
    })
    const { value, temperature } = fields()
    await userEvent.type(value, '7.01')
    await userEvent.type(temperature, '22')
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(alerts()).toContain('Not now.'))
    expect(value.value).toBe('7.01')
  })

  it('asks for millivolts where the device shows them', () => {
    stage(atPoint({}, { linked: false }), liveAt('point-1'))
    expect(screen.getByLabelText('Millivolts shown')).toBeTruthy()
  })
})
