import {
  addDays,
  type CalendarDay,
  dayAt,
  type PlanView,
  type RigView,
  type ShelfView,
  startOfDayIn,
} from '@frustum/contract'
import { expect, it } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'

/** A day is one of the site's calendar, wherever server and reader are. */

const HOUR = 3_600_000
// In the morning in Sydney and farther east it is still the day before in UTC; in Niue that holds in the evening.
const MORNING = Date.UTC(2026, 0, 15, 21, 30)

it.each([
  ['Pacific/Niue', Date.UTC(2026, 0, 16, 3)],
  ['America/New_York', Date.UTC(2026, 2, 8, 4, 30)],
  ['Europe/Berlin', Date.UTC(2026, 9, 24, 22, 30)],
  ['Australia/Sydney', MORNING],
  ['Pacific/Kiritimati', MORNING],
])(
  '%s: today may be chosen, a label’s day is its day, and a lot is good through its last one',
  async (timeZone, at) => {
    const site = await ownSite('', { at })
    await site.ask('site/set-up', { name: 'Mill', person: operator, timeZone })
    const today = dayAt(at, timeZone)
    const tomorrow = addDays(today, 1)

    // A change that counts from a day.
    const place = await site.ask<{ id: number }>('rig/place', {
      operator,
      values: { name: 'Hall', sortOrder: '1', note: '' },
    })
    const change = (on: CalendarDay, name: string) =>
      site.ask(`rig/place/${place.body.id}`, { operator, values: { name }, seen: {}, mode: 'changed', on })
    expect((await change(today, 'West hall')).status).toBe(200)
    expect((await change(tomorrow, 'East hall')).status).toBe(400)

    // A meter's calibration.
    const meter = (calibratedOn: CalendarDay) =>
      site.ask('instruments', { operator, kind: 'hand-meter', name: `Meter ${calibratedOn}`, calibratedOn })
    expect((await meter(today)).status).toBeLessThan(300)
    expect((await meter(tomorrow)).status).toBe(400)
    const { instruments } = await site.get<RigView>('rig')
    expect(instruments.map((i) => dayAt(i.calibratedAt ?? 0, timeZone))).toEqual([today])

    // Two bottles: the label of one ends today, the other has been open for its last day.
    const lot = { operator, standard: 'pH7.00', keepsDays: 30, volume: 500, storage: 'Dark' }
    for (const [name, expiresOn] of [
      ['A', today],
      ['B', addDays(today, 300)],
    ] as const)
      await site.ask('shelf', { ...lot, lot: name, expiresOn })
    const states = async () =>
      Object.fromEntries(
        (await site.get<ShelfView>('shelf')).lots.map((l) => [l.lot, [l.expiresOn, l.goodUntil, l.state]]),
      )
    expect(await states()).toEqual({
      A: [today, today, 'ending'],
      B: [addDays(today, 300), addDays(today, 300), 'good'],
    })
    const b = (await site.get<ShelfView>('shelf')).lots.find((l) => l.lot === 'B')
    await site.ask(`shelf/${b?.id}`, { operator, action: 'open' })
    site.clock.set(startOfDayIn(tomorrow, timeZone) - 1000)
    expect((await states()).A?.[2]).toBe('ending')
    site.clock.set(startOfDayIn(tomorrow, timeZone) + 1000)
    expect((await states()).A?.[2]).toBe('expired')
    const lastOpen = addDays(today, 30)
    site.clock.set(startOfDayIn(addDays(lastOpen, 1), timeZone) - HOUR)
    expect((await states()).B).toEqual([addDays(today, 300), lastOpen, 'ending'])
    site.clock.set(startOfDayIn(addDays(lastOpen, 1), timeZone) + 1000)
    expect((await states()).B?.[2]).toBe('open too long')

    // The calendar that others subscribe to.
    const lamp = await site.ask('rig/consumable', {
      operator,
      placeId: place.body.id,
      values: { name: 'UV lamp', everyDays: '30', leadDays: '0' },
    })
    expect(lamp.status, JSON.stringify(lamp.body)).toBe(201)
    const plan = await site.get<PlanView>('plan')
    const feed = await (await fetch(`${site.url()}${plan.calendarPath}`)).text()
    expect(plan.consumables).toHaveLength(1)
    for (const { due } of plan.consumables)
      expect(feed).toContain(`DTSTART;VALUE=DATE:${dayAt(due, timeZone).replaceAll('-', '')}`)
  },
)

it('a changed time zone holds from then on', async () => {
  const site = await ownSite('', { at: MORNING })
  await site.ask('site/set-up', { name: 'Mill', person: operator, timeZone: 'UTC' })
  await site.ask('shelf', {
    ...{ operator, standard: 'pH7.00', keepsDays: 30, volume: 500, storage: 'Dark', lot: 'A' },
    expiresOn: '2026-01-15',
  })
  const state = async () => (await site.get<ShelfView>('shelf')).lots[0]?.state
  expect(await state()).toBe('ending')
  const changed = await site.ask('rig/site/1', {
    operator,
    values: { timeZone: 'Australia/Sydney' },
    seen: {},
    mode: 'wrong',
  })
  expect(changed.status, JSON.stringify(changed.body)).toBe(200)
  expect(await state()).toBe('expired')
})
