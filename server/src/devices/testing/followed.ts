import { systemClock } from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import { onTestFinished } from 'vitest'
import { LineProblem } from '../lineProblem.ts'
import type { Bus } from '../link.ts'
import { protocolOf } from '../protocols/registry.ts'

type Heard = SensorReading | LineProblem

/** A connection that is followed as the server does, and what was heard of each sensor. */
export function followed(bus: Omit<Bus, 'secret'> & Partial<Pick<Bus, 'secret'>>, everyMs = 50) {
  const heard = new Map<number, Heard[]>()
  const hear = (id: number, what: Heard) => {
    heard.set(id, [...(heard.get(id) ?? []), what])
  }
  const driver = protocolOf(bus.protocol).open({
    bus: { secret: null, ...bus },
    everyMs,
    clock: systemClock,
    told: { reading: hear, failed: hear, temperatureAt: () => null, isWatched: () => false, everyMs: () => null },
    received: new Map(),
  })
  onTestFinished(() => driver.close())
  return {
    driver,
    heard: (id: number): readonly Heard[] => heard.get(id) ?? [],
    /** What comes next of a sensor. @throws LineProblem */
    next: (id: number) => nextOf(() => heard.get(id) ?? []),
  }
}

async function nextOf(heard: () => readonly Heard[]): Promise<SensorReading> {
  const before = heard().length
  const until = Date.now() + 10_000
  while (heard().length === before) {
    if (Date.now() > until) throw new Error('Nothing came.')
    await new Promise((resolve) => setTimeout(resolve, 5))
  }
  const next = heard()[before] as Heard
  if (next instanceof LineProblem) throw next
  return next
}
