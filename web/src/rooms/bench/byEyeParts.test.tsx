// @vitest-environment happy-dom
import type { VisitView } from '@frustum/contract'
import type { VisitEntry } from '@frustum/core'
import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'
import { answering, leavePage, show } from '../../../../lab/src/fixtures/page.tsx'
import { captured, visitAfter } from '../../../../lab/src/fixtures/visitViews.ts'
import { now } from '../../store/clock.ts'
import { Ladder } from './Ladder.tsx'
import { Stage } from './Stage.tsx'

afterEach(leavePage)

const TO_KEYS: VisitEntry[] = [
  { type: 'done', step: 'hold' },
  captured('ph', 'found-process', { value: 8.1 }),
  captured('ph', 'found-standard', { code: 'pH7.00' }),
  captured('ph', 'found-second', { code: 'pH10.01' }),
  { type: 'decided', step: 'verdict', decision: 'adjust', proposed: 'adjust', note: null },
  { type: 'done', step: 'clean' },
]
const wordDevice = (entries: readonly VisitEntry[], view: Partial<VisitView> = {}) =>
  visitAfter({
    kind: 'ph',
    procedure: 'self-ph-two-point',
    entries: [...TO_KEYS, ...entries],
    setup: { shows: 'value', adjustsBy: 'key', whileCalibrating: 'word' },
    view,
  })
const stage = (visit: VisitView, mine = true) =>
  show(<Stage visit={visit} live={null} trace={[]} mine={mine} parts={{ current: new Set() }} />)
const waited = (seconds: number) =>
  wordDevice([{ type: 'waiting', step: 'still-1', minutes: 0.25, shared: false }], {
    waiting: { since: now() - 1000 * seconds, minutes: 0.25 },
  })

it('one press times a display that stands still; the step goes on by itself, and only for who has it in hand', async () => {
  const visit = wordDevice([])
  const path = `/api/visits/${visit.id}`
  const sent = answering({ [`${path}/wait`]: visit, [`${path}/done`]: visit, '/api/waits': [] })
  stage(visit)
  expect(screen.queryByText('How long?')).toBeNull()
  await userEvent.click(screen.getByTestId('main'))
  await waitFor(() => expect(sent.map((s) => [s.path, s.body.minutes])).toEqual([[`${path}/wait`, 0.25]]))
  leavePage()

  const over = answering({ [`${path}/done`]: visit, '/api/waits': [] })
  stage(waited(5))
  expect(screen.getByTestId('time-left').textContent).toMatch(/^\d+ s$/)
  leavePage()
  stage(waited(20), false)
  leavePage()
  expect(over).toEqual([])
  const own = answering({ [`${path}/done`]: visit, '/api/waits': [] })
  stage(waited(20))
  await waitFor(() => expect(own.map((s) => s.path)).toEqual([`${path}/done`]))
})

it('on a small screen the steps before are a press away, and can be taken again', async () => {
  const again = vi.fn()
  show(<Ladder visit={wordDevice([])} onRedo={again} />)
  const open = screen.getByRole('button', { name: 'Step 7' })
  expect(open.getAttribute('aria-expanded')).toBe('false')
  await userEvent.click(open)
  expect(open.getAttribute('aria-expanded')).toBe('true')
  await userEvent.click(screen.getByRole('button', { name: /As found, pH 7\.00/ }))
  expect(again.mock.calls[0]?.[0]).toMatchObject({ key: 'found-standard' })
})

it('an instrument is added in the step, chosen at once, and fills in what it is good to', async () => {
  const visit = visitAfter({
    kind: 'ph',
    procedure: 'compare',
    entries: [captured('ph', 'moment', { value: 8.1 })],
    setup: { shows: 'value' },
  })
  const meter = {
    id: 7,
    kind: 'hand-meter',
    name: 'Pocket 3',
    serial: '',
    calibratedAt: null,
    uncertainty: 0.02,
    unit: 'pH',
  }
  const sent = answering({
    '/api/instruments': (body: object) => ('name' in body ? [meter] : []),
    [`/api/visits/${visit.id}/fill`]: visit,
    '/api/waits': [],
  })
  stage(visit)
  const [chosen] = screen.getAllByLabelText(/Read with/) as HTMLSelectElement[]
  await userEvent.selectOptions(chosen as HTMLSelectElement, 'add')
  await userEvent.type(screen.getByLabelText('Name'), 'Pocket 3')
  await userEvent.click(screen.getByRole('button', { name: 'Add it' }))
  await waitFor(() => expect(chosen?.value).toBe('7'))
  await userEvent.type(screen.getAllByLabelText(/Reads/)[0] as HTMLElement, '8.05')
  await userEvent.click(screen.getByTestId('main'))
  const filled = () => sent.find((s) => s.path.endsWith('/fill'))?.body.values
  await waitFor(() => expect(filled()).toMatchObject({ value0: '8.05', uncertainty0: '0.02', instrument0: '7' }))
})
