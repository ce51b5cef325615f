// @vitest-environment happy-dom
import type { FinderView } from '@frustum/contract'
import { fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'
import { leavePage } from '../../../../lab/src/fixtures/page.tsx'
import { Found } from './FinderPanel.tsx'

afterEach(leavePage)

it('the list of candidates holds still while one is pressed, and the press is for that one', async () => {
  const place = (address: number) => ({
    channel: { at: { table: 'holding', address, type: 'float32', order: 'CDAB' }, unit: '', scale: 1, offset: 0 },
    reads: address / 10,
    title: `Register ${address}`,
    type: '32-bit decimal',
    details: [],
    same: [],
  })
  const found = (...addresses: number[]) =>
    ({ certain: true, left: addresses.length, looks: 2, first: addresses.map(place) }) as unknown as NonNullable<
      FinderView['found']['value']
    >
  const onTake = vi.fn()
  const list = (...addresses: number[]) => <Found name="value" found={found(...addresses)} onTake={onTake} />
  const { rerender } = render(list(100, 102))
  const button = screen.getAllByRole('button', { name: 'Use this' })[0] as HTMLElement
  fireEvent.pointerDown(button)
  // The next look finds another one before the finger is lifted.
  rerender(list(98, 104))
  expect(screen.queryByText('Register 98')).toBeNull()
  fireEvent.pointerUp(button)
  // A finger that is lifted leaves the list before its click arrives.
  fireEvent.pointerLeave(button.closest('ul') as HTMLElement)
  await new Promise((resolve) => setTimeout(resolve, 20))
  expect(screen.queryByText('Register 98')).toBeNull()
  fireEvent.click(button)
  expect(onTake).toHaveBeenCalledTimes(1)
  expect(onTake.mock.calls[0]?.[1]).toMatchObject({ channel: { at: { address: 100 } } })
  expect(await screen.findByText('Register 98')).toBeTruthy()
})
