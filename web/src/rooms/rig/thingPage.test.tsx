// @vitest-environment happy-dom
import type { Subject, ThingView } from '@frustum/contract'
import { deviceFields, type FieldSpec, ruleFields } from '@frustum/core'
import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it } from 'vitest'
import { type Answers, answering, leavePage, show } from '../../../../lab/src/fixtures/page.tsx'
import { SITE } from '../../../../lab/src/fixtures/visitViews.ts'
import { ThingPage } from './ThingPage.tsx'

afterEach(leavePage)

/** The form of a thing, as the server gives it. */
async function open(subject: Subject, fields: readonly FieldSpec[], values: ThingView['values'], more: Answers = {}) {
  const thing = { subject, id: 1, title: 'T1', fields, values, says: null, changes: [], archived: false }
  const may = { canArchive: true, keptFor: null }
  const sent = answering({
    [`/api/rig/${subject}/1`]: { ...thing, ...may },
    [`/api/rig/${subject}/1/moves`]: { moves: [] },
    '/api/site': SITE,
    '/api/rig': { positions: [], devices: [], places: [], spares: [], codes: [] },
    '/api/me': { person: null, mustSignIn: false },
    ...more,
  })
  show(<ThingPage />, { path: '/rig/:subject/:id', at: `/rig/${subject}/1` })
  await screen.findByRole('heading', { level: 1 })
  return sent
}

it('a form that nobody touched asks for nothing, whatever is stored of its defaults', async () => {
  const sent = await open('device', deviceFields(['ph', 'conductivity']), { calibrationKey: 'CAL' })
  expect(screen.queryByText('It was entered wrong')).toBeNull()
  expect(sent).toEqual([])
})

it('what a tolerance in °F moves is asked in °F, as it is saved', async () => {
  const fields = ruleFields('temperature', {}).slice(0, 3)
  const values = { processValue: '25', processTemperature: '25', tolerance: '0.5' }
  const sent = await open('position', fields, values)
  const tolerance = screen.getByLabelText('Tolerance, ±') as HTMLInputElement
  expect(tolerance.value).toBe('0.5 C')
  await userEvent.click(screen.getAllByRole('button', { name: 'In °C; press for °F' })[0] as HTMLElement)
  await userEvent.clear(tolerance)
  await userEvent.type(tolerance, '0.72')
  await waitFor(() => expect(sent.at(-1)?.body.values).toEqual({ tolerance: '0.72 F' }))
  expect(screen.getByText('It was entered wrong')).toBeTruthy()
})
