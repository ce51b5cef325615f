// @vitest-environment happy-dom
import type { WhatIfView } from '@frustum/contract'
import { DAY_MS, say, USUAL_READER } from '@frustum/core'
import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it } from 'vitest'
import { type Answers, answering, leavePage, refuse, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { probeOf } from '../../../../lab/src/fixtures/probeViews.ts'
import { NOW } from '../../../../lab/src/fixtures/visitViews.ts'
import { followReader } from '../../components/format.ts'
import { WhatIf } from './WhatIf.tsx'

afterEach(leavePage)

const PATH = '/api/probes/XX-1/what-if'
const RULES = '/api/probes/XX-1/rules'

/** Answers with what was asked for, so that a test sees which rules it is of. */
const answer = (body: Record<string, unknown>): WhatIfView => ({
  next: {
    ...probeOf('ph').figure.next,
    at: NOW + Number(body.ceilingDays) * DAY_MS,
    days: Number(body.ceilingDays),
    usualDays: Number(body.ceilingDays),
    reason: say`By ${String(body.method)}.`,
  },
  visitsPerYear: 365 / Number(body.ceilingDays),
  minutesPerYear: 120,
})

it('asks for the rules of a temperature sensor in the reader’s degrees, and sends them as they are stored', async () => {
  followReader({ ...USUAL_READER, temperature: '°F' })
  try {
    const probe = probeOf('temperature')
    const at25 = { ...probe, processUnit: '°C', processValue: 25 }
    const policy = { ...probe.figure.policy, tolerance: 0.5 }
    const { sent } = open({}, { ...at25, figure: { ...probe.figure, policy } })
    expect((screen.getByLabelText('The water is at') as HTMLInputElement).value).toBe('77')
    const limit = screen.getByLabelText('Within ±') as HTMLInputElement
    expect(limit.value).toBe('0.9')
    await userEvent.clear(limit)
    await userEvent.type(limit, '1.8')
    await waitFor(() => expect(sent.at(-1)?.body.tolerance).toBeCloseTo(1, 9))
    expect(sent.at(-1)?.body.processValue).toBeCloseTo(25, 9)
  } finally {
    followReader(USUAL_READER)
  }
})

function open(answers: Answers = {}, probe = probeOf('ph')) {
  const sent = answering({ [PATH]: answer, ...answers })
  return { ...show(<WhatIf probe={probe} timeZone="UTC" />), sent }
}
const field = (label: string) => screen.getByLabelText(label) as HTMLInputElement
const said = () => screen.getAllByRole('alert').map(words).filter(Boolean)

describe('other rules', () => {
  it('begin with those in force, and say what they make of the next date and of a year', async () => {
    const { sent, container } = open()
    await screen.findByTestId('what-if-date')
    expect(sent[0]?.body).toMatchObject({
      method: 'drift',
      tolerance: 0.1,
      reliability: 0.95,
      floorDays: 7,
      ceilingDays: 90,
      processValue: 8,
      fixedDays: null,
      inUseHours: null,
    })
    expect(screen.getByTestId('what-if-date').textContent).toBe('21 Feb 2027')
    expect(words(container)).toContain('every 90 days: about 4.1 visits and 2 h 00 of hands a year. By drift.')
  })

  it('are asked for anew with each sensible change, and nothing is written', async () => {
    const { sent } = open()
    await screen.findByTestId('what-if-date')
    await userEvent.clear(field('Longest interval'))
    await userEvent.type(field('Longest interval'), '30')
    await waitFor(() => expect(screen.getByTestId('what-if-date').textContent).toBe('23 Dec'))
    expect(sent.every((s) => s.path === PATH)).toBe(true)
  })

  it('name what is out of bounds at its field and keep the last sensible answer', async () => {
    const { sent } = open()
    await screen.findByTestId('what-if-date')
    await userEvent.clear(field('How sure'))
    await userEvent.type(field('How sure'), '120')
    await waitFor(() => expect(said()[0]).toMatch(/^The reliability is 120; it must lie within 50 to 99\.9 %\./))
    expect(screen.getByTestId('what-if-date').textContent).toBe('21 Feb 2027')
    expect((screen.getByRole('button', { name: 'Save rules' }) as HTMLButtonElement).disabled).toBe(true)
    expect(sent.some((s) => s.body.reliability === 1.2)).toBe(false)
  })

  it('refuse a longest interval below the shortest', async () => {
    open()
    await screen.findByTestId('what-if-date')
    await userEvent.clear(field('Shortest interval'))
    await userEvent.type(field('Shortest interval'), '100')
    await waitFor(() =>
      expect((screen.getByRole('button', { name: 'Save rules' }) as HTMLButtonElement).disabled).toBe(true),
    )
    await userEvent.click(field('Longest interval'))
    await userEvent.type(field('Longest interval'), '{End} ')
    await waitFor(() => expect(said()).toContain('Not shorter than the shortest interval.'))
  })

  it('ask each method only for what it needs, and forget a slip in a field that is gone', async () => {
    const { sent } = open()
    await screen.findByTestId('what-if-date')
    expect(screen.queryByLabelText('Every')).toBeNull()
    await userEvent.selectOptions(screen.getByLabelText('Next date'), 'hours in use')
    await userEvent.clear(field('Hours in use'))
    await userEvent.type(field('Hours in use'), 'many')
    await waitFor(() => expect(said()[0]).toContain('"many" is not a number'))
    await userEvent.selectOptions(screen.getByLabelText('Next date'), 'fixed calendar')
    await userEvent.clear(field('Every'))
    await userEvent.type(field('Every'), '14')
    await waitFor(() =>
      expect(sent.at(-1)?.body).toMatchObject({ method: 'fixed', fixedDays: 14, inUseHours: null, hoursPerDay: null }),
    )
  })

  it('are saved on request', async () => {
    const { sent } = open({ [RULES]: probeOf('ph') })
    await screen.findByTestId('what-if-date')
    await userEvent.selectOptions(screen.getByLabelText('A visit'), 'calibrate each time')
    await userEvent.click(screen.getByRole('button', { name: 'Save rules' }))
    await waitFor(() =>
      expect(sent.find((s) => s.path === RULES)?.body).toMatchObject({ checkFirst: 'never', method: 'drift' }),
    )
  })

  it('that loosen a limit are saved only with a reason, which is asked for at the rules', async () => {
    let asked = 0
    const { sent } = open({
      [RULES]: () => {
        asked++
        return asked === 1
          ? refuse(400, { code: 'why-needed', message: 'Say why.', fields: { why: 'Say why in a few words.' } })
          : probeOf('ph')
      },
    })
    await screen.findByTestId('what-if-date')
    await userEvent.clear(field('Within ±'))
    await userEvent.type(field('Within ±'), '0.3')
    await userEvent.click(screen.getByRole('button', { name: 'Save rules' }))
    await userEvent.type(await screen.findByLabelText('Why is the limit loosened?'), 'Less touchy')
    await userEvent.click(screen.getByRole('button', { name: 'Save rules' }))
    await waitFor(() => expect(asked).toBe(2))
    expect(sent.filter((r) => r.path === RULES).at(-1)?.body).toMatchObject({ tolerance: 0.3, why: 'Less touchy' })
  })
})
