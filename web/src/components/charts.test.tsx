import { type SensorState, timelineOf } from '@frustum/core'
import { renderToStaticMarkup } from 'react-dom/server'
import { describe, expect, it } from 'vitest'
import { Thumbnail } from '../rooms/ledger/Thumbnail.tsx'
import { TimelineChart } from '../rooms/plan/TimelineChart.tsx'
import { StateMark } from './StateMark.tsx'

describe('the hours of a trip', () => {
  // By hand: the float is begun 60 min before the arrival; then 20 min at the one and 30 min at the other.
  const timeline = timelineOf([
    {
      position: 'CH-pH-1',
      parts: [
        { what: 'Float', minutes: 60, hands: false, shared: true },
        { what: 'Calibrate', minutes: 20, hands: true },
      ],
      after: [],
    },
    { position: 'CH-pH-3', parts: [{ what: 'Check', minutes: 30, hands: true }], after: ['CH-pH-1'] },
  ])
  const svg = renderToStaticMarkup(
    <TimelineChart timeline={timeline} arrival={Date.UTC(2026, 10, 23, 9)} timeZone="Europe/London" />,
  )
  const bars = [...svg.matchAll(/left:([\d.]+)%;width:([\d.]+)%/g)].map((m) => [Number(m[1]), Number(m[2])])

  it('say when each thing begins, in the time of the site', () => {
    const words = svg.replace(/<[^>]+>/g, ' ').replace(/\s+/g, ' ')
    expect(words).toContain('08:00 all: float')
    expect(words).toContain('09:00 CH-pH-1: calibrate')
    expect(words).toContain('09:20 CH-pH-3: check')
  })

  it('are drawn to scale, from the first thing that is begun to the end', () => {
    expect(bars).toHaveLength(3)
    for (const [left = -1, width = 999] of bars) {
      expect(left).toBeGreaterThanOrEqual(0)
      expect(left + width).toBeLessThanOrEqual(100 + 1e-9)
    }
    // 60 of 110 min before the arrival.
    expect(bars[0]?.[1]).toBeCloseTo((100 * 60) / 110, 6)
    expect(svg).toContain(`left:${(100 * 60) / 110}%" title="arrival"`)
  })
})

describe('the small picture of how a reading settled', () => {
  it('stays within its frame, and is a dash where there is nothing to see', () => {
    const svg = renderToStaticMarkup(
      <Thumbnail
        trace={[
          [0, -20],
          [10, -170],
          [40, -174.2],
          [63.4, -174.3],
        ]}
      />,
    )
    expect(svg).toContain('aria-label="Settled within 63 s"')
    const numbers = svg.match(/ d="([^"]+)"/)?.[1]?.match(/[\d.]+/g) ?? []
    expect(numbers.length).toBe(8)
    numbers.forEach((n, i) => {
      expect(Number(n)).toBeLessThanOrEqual(i % 2 === 0 ? 96 : 28)
    })
    expect(renderToStaticMarkup(<Thumbnail trace={[]} />)).toContain('–')
    // A value that never moved divides by nothing.
    const still = renderToStaticMarkup(
      <Thumbnail
        trace={[
          [5, 7],
          [5, 7],
          [5, 7],
        ]}
      />,
    )
    expect(still).not.toMatch(/NaN|Infinity/)
  })
})

it('a state is a shape of its own and a word, whatever its colour', () => {
  const states: SensorState[] = ['holding', 'drifting', 'due', 'overdue', 'out', 'resting', 'blind']
  const marks = states.map((state) => renderToStaticMarkup(<StateMark state={state} />))
  const words = marks.map((m) => m.replace(/<[^>]+>/g, ''))
  expect(words).toEqual(['in tolerance', 'drifting', 'due', 'overdue', 'out', 'visit open', 'no data'])
  const shapes = marks.map((m) => m.match(/ d="([^"]+)"/)?.[1])
  expect(new Set(shapes).size).toBe(states.length)
})
