// @vitest-environment happy-dom
import type { VisitView } from '@frustum/contract'
import type { VisitEntry } from '@frustum/core'
import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it } from 'vitest'
import { type Answers, answering, leavePage, refuse, show, words } from '../../../../lab/src/fixtures/page.tsx'
import { captured, visitAfter } from '../../../../lab/src/fixtures/visitViews.ts'
import { Ladder } from './Ladder.tsx'
import { Stage } from './Stage.tsx'

afterEach(leavePage)

/** Two points of an electrode with this zero and slope, up to the result. */
const upToResult = (zero: number, slopeEfficiency = 0.98): VisitEntry[] => {
  const actual = { zero, slopeEfficiency }
  return [
    { type: 'done', step: 'hold' },
    captured('ph', 'found-process', { value: 8.1, actual }),
    captured('ph', 'found-standard', { code: 'pH7.00', actual }),
    { type: 'done', step: 'clean' },
    captured('ph', 'point-1', { code: 'pH7.00', actual }),
    { type: 'done', step: 'rinse-2' },
    captured('ph', 'point-2', { code: 'pH10.01', actual }),
  ]
}
const decided = (decision: 'adjust' | 'leave-alone'): VisitEntry => ({
  type: 'decided',
  step: 'result',
  decision,
  proposed: decision,
  note: null,
})
const visitWith = (entries: VisitEntry[], view: Partial<VisitView> = {}, setup = {}) =>
  visitAfter({ kind: 'ph', procedure: 'ph-two-point', entries, view, setup })

function stage(visit: VisitView, answers: Answers = {}) {
  const sent = answering(answers)
  return { ...show(<Stage visit={visit} live={null} trace={[]} mine parts={{ current: new Set() }} />), sent }
}
const proposal = () => words(screen.getByTestId('proposal'))

describe('a decision', () => {
  it('shows the figures with their units, the proposal and its reason', () => {
    const { container } = stage(visitWith(upToResult(-12)))
    expect(proposal()).toBe('Adjust')
    expect(words(container)).toMatch(/Slope98\.0 %±/)
    expect(words(container)).toMatch(/Zero-1\d(\.\d)? mV±/)
    expect(words(container)).toMatch(/It reads 0\.\d\d pH too (high|low) at the process value/)
  })

  it('leaves a good sensor alone by default, in one press', async () => {
    const visit = visitWith(upToResult(0, 1))
    const { sent } = stage(visit, { [`/api/visits/${visit.id}/decide`]: visit })
    expect(proposal()).toBe('Leave it alone')
    await userEvent.keyboard(' ')
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ step: 'result', decision: 'leave-alone' }))
    expect(sent[0]?.body).not.toHaveProperty('note')
  })

  it('otherwise than proposed needs a reason, and the button says what will be done', async () => {
    const visit = visitWith(upToResult(-12))
    const { sent } = stage(visit, { [`/api/visits/${visit.id}/decide`]: visit })
    await userEvent.click(screen.getByRole('button', { name: 'Clean and recheck' }))
    const strong = screen.getByRole('button', { name: /^Clean and recheck Space/ })
    await userEvent.click(strong)
    expect(screen.getByText('Say why in a few words.')).toBeTruthy()
    expect(sent).toEqual([])
    await userEvent.type(screen.getByLabelText(/Why otherwise than proposed/), 'It looked dirty')
    await userEvent.click(strong)
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ decision: 'clean-and-recheck', note: 'It looked dirty' }))
  })

  it('after swapped cups offers no adjustment, names the fault, and proposes the points again', () => {
    const [good, far] = [upToResult(0), upToResult(0)]
    const swapped = good.map((e, i) => {
      const other = far[i === 4 ? 6 : i === 6 ? 4 : i]
      if (e.type !== 'captured' || other?.type !== 'captured' || i < 4) return e
      return { ...e, reading: { ...other.reading, standard: e.reading.standard } } as VisitEntry
    })
    const { container } = stage(visitWith(swapped))
    expect(words(container)).toContain('They look swapped')
    expect(proposal()).toBe('Take the points again')
    expect(screen.queryByRole('button', { name: 'Adjust' })).toBeNull()
  })

  it('stands below the rule of an authority', () => {
    const { container } = stage(visitWith(upToResult(-12), { authorityRule: 'Monthly, by permit.' }))
    expect(words(container)).toContain('This rule comes before any proposal. Monthly, by permit.')
  })

  it('cannot be pressed by who does not hold the sensor', () => {
    answering({})
    const { container } = show(
      <Stage visit={visitWith(upToResult(-12))} live={null} trace={[]} mine={false} parts={{ current: new Set() }} />,
    )
    expect(container.querySelector('[inert]')).not.toBeNull()
  })
})

describe('what a device is given', () => {
  it('is shown rounded as it is keyed in, and asks what the device shows afterwards', async () => {
    const visit = visitWith([...upToResult(-12.34), decided('adjust')], {}, { shows: 'value' })
    const { sent, container } = stage(visit, {
      [`/api/visits/${visit.id}/apply`]: refuse(400, {
        code: 'invalid',
        message: 'Type it.',
        fields: { shownAfter: 'Look again.' },
      }),
    })
    expect(words(container)).toMatch(/Slope98\.0 %/)
    expect(words(container)).toMatch(/Zero-12\.\d mV/)
    expect(screen.queryByRole('button', { name: /Write to the device/ })).toBeNull()
    const press = () => userEvent.click(screen.getByRole('button', { name: /Confirm entry/ }))
    await press()
    await waitFor(() => expect(words(container)).toContain('Type the pH, -1 to 15.'))
    expect(sent).toEqual([])
    await userEvent.type(screen.getByLabelText('Shows now, pH'), '7,02')
    await press()
    await waitFor(() => expect(words(container)).toContain('Look again.'))
    expect(sent[0]?.body).toMatchObject({ way: 'keyed', shownAfter: '7,02' })
    expect(screen.queryByLabelText('Why does that stand?')).toBeNull()
  })

  it('a number that should be another asks why it stands, and keeps what was typed', async () => {
    const visit = visitWith([...upToResult(-12.34), decided('adjust')], {}, { shows: 'value' })
    const { sent } = stage(visit, {
      [`/api/visits/${visit.id}/apply`]: refuse(409, {
        code: 'shows-otherwise',
        message: 'It shows 4.01; with these numbers it should show 10.06.',
        fields: { shownAfter: 'It should show 10.06.', why: 'Say why it stands.' },
      }),
    })
    const press = () => userEvent.click(screen.getByRole('button', { name: /Confirm entry/ }))
    await userEvent.type(screen.getByLabelText('Shows now, pH'), '4.01')
    await press()
    await userEvent.type(await screen.findByLabelText('Why does that stand?'), 'Its display is slow')
    await press()
    await waitFor(() => expect(sent[1]?.body).toMatchObject({ shownAfter: '4.01', why: 'Its display is slow' }))
  })

  it('a device with a line is read back, not asked by eye', async () => {
    const visit = visitWith([...upToResult(-12), decided('adjust')], {}, { linked: true, writable: false })
    const { sent, container } = stage(visit, { [`/api/visits/${visit.id}/apply`]: visit })
    expect(container.querySelector('input')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: /Keyed in: read back/ }))
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ way: 'keyed' }))
  })

  it('goes over the line where the device can be written', async () => {
    const visit = visitWith([...upToResult(-12), decided('adjust')], {}, { linked: true, writable: true })
    const { sent } = stage(visit, { [`/api/visits/${visit.id}/apply`]: visit })
    await userEvent.click(screen.getByRole('button', { name: /Write to the device/ }))
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ way: 'link' }))
  })
})

describe('the ladder', () => {
  it('shows what each step read and where one is; a step that was done is taken again on request', async () => {
    answering({})
    const again: string[] = []
    const visit = visitWith(upToResult(-12))
    const { container } = show(<Ladder visit={visit} onRedo={(step) => again.push(step.key)} />)
    const ladder = words(container)
    expect(ladder).toMatch(/As found, processpH \d\.\d\d|As found, process-?\d+\.\d mV/)
    expect(ladder).toContain('Result now')
    await userEvent.click(screen.getByRole('button', { name: /As found, process/ }))
    expect(again).toEqual(['found-process'])
  })
})

describe('a form step', () => {
  const known = () =>
    visitAfter({
      kind: 'chlorine',
      procedure: 'sample',
      entries: [{ type: 'done', step: 'flow' }, captured('chlorine', 'moment', { value: 0.6 })],
      setup: { processValue: 0.5, tolerance: 0.1 },
    })

  it('stands with usual values, refuses what is no number at its field, and keeps what was typed over a reload', async () => {
    const visit = known()
    const { sent, unmount } = stage(visit, { [`/api/visits/${visit.id}/fill`]: visit })
    const result = screen.getByLabelText('Result of the sample') as HTMLInputElement
    expect((screen.getByLabelText('Good to ±') as HTMLInputElement).value).toBe('0.05')
    await userEvent.type(result, 'half')
    await userEvent.click(screen.getByTestId('main'))
    await waitFor(() => expect(screen.getAllByRole('alert').map(words).join()).toContain('"half" is not a number'))
    expect(sent).toEqual([])
    await userEvent.clear(result)
    await userEvent.type(result, '0,52')
    unmount()
    const again = stage(visit, { [`/api/visits/${visit.id}/fill`]: visit })
    expect((screen.getByLabelText('Result of the sample') as HTMLInputElement).value).toBe('0,52')
    await userEvent.click(screen.getByTestId('main'))
    await waitFor(() =>
      expect(again.sent[0]?.body).toMatchObject({ step: 'lab', values: { result: '0,52', uncertainty: '0.05' } }),
    )
  })
})
