import type { FrustumView } from '@frustum/contract'
import { DAY_MS, type DriftObservation, forecastCone, forecastDrift, nextDate } from '@frustum/core'
import { renderToStaticMarkup } from 'react-dom/server'
import { describe, expect, it } from 'vitest'
import { SmallFrustum } from './SmallFrustum.tsx'

const POLICY = { tolerance: 0.1, reliability: 0.95, floorDays: 7, ceilingDays: 90, unit: 'pH', decimals: 2 }
const LAST = 210 * DAY_MS

function figureAt(now: number, growth: number): FrustumView {
  const visits: DriftObservation[] = Array.from({ length: 8 }, (_, i) => ({
    at: 30 * i * DAY_MS,
    asFound: i === 0 ? null : growth,
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  }))
  const forecast = forecastDrift(visits)
  const next = nextDate(forecast, POLICY)
  return {
    cone: forecastCone(forecast, POLICY.tolerance, Math.max(next.at, now), 14),
    from: forecast.from,
    outside: 0,
    policy: POLICY,
    next,
    dots: [{ at: LAST, error: 0, uncertainty: 0.02 }],
    startsAt: LAST,
  }
}

/** The drawing as numbers: bands as lists of [x, y], and where the due date and today stand. */
function drawn(figure: FrustumView, now: number) {
  const svg = renderToStaticMarkup(<SmallFrustum figure={figure} now={now} />)
  const points = (list: string) => list.split(' ').map((p) => p.split(',').map(Number) as [number, number])
  const [outer, inner] = [...svg.matchAll(/<polygon points="([^"]+)"/g)].map((m) => points(m[1] as string))
  const [mean] = [...svg.matchAll(/<polyline points="([^"]+)"/g)].map((m) => points(m[1] as string))
  const [due, today] = [...svg.matchAll(/<line x1="([\d.]+)"/g)].map((m) => Number(m[1]))
  return { svg, outer: outer ?? [], inner: inner ?? [], mean: mean ?? [], due: due ?? 0, today: today ?? 0 }
}

describe('the small frustum', () => {
  it('lies within its frame whatever the drift, is numbers only, and says what it shows', () => {
    for (const growth of [0, 0.01, 0.06, -0.09, 3]) {
      for (const days of [1, 40, 400]) {
        const now = LAST + days * DAY_MS
        const { svg, outer, inner, mean } = drawn(figureAt(now, growth), now)
        expect(svg).not.toMatch(/NaN|Infinity|undefined/)
        expect(svg).toContain('aria-label="Forecast error within ± 0.1 pH until the next date"')
        for (const [x, y] of [...outer, ...inner, ...mean]) {
          expect(x).toBeGreaterThanOrEqual(0)
          expect(x).toBeLessThanOrEqual(132)
          expect(y).toBeGreaterThanOrEqual(1)
          expect(y).toBeLessThanOrEqual(51)
        }
      }
    }
  })

  it('ends at the due date where that is to come, and at today where it was missed', () => {
    const soon = LAST + 2 * DAY_MS
    const early = drawn(figureAt(soon, 0.06), soon)
    expect(early.today).toBeLessThan(early.due)
    expect(Math.max(...early.outer.map(([x]) => x))).toBeLessThanOrEqual(early.due + 1e-6)
    const missed = LAST + 120 * DAY_MS
    const late = drawn(figureAt(missed, 0.06), missed)
    expect(late.today).toBeGreaterThan(late.due)
    expect(Math.max(...late.outer.map(([x]) => x))).toBeCloseTo(late.today, 6)
  })

  it('opens in the direction of the drift: upwards is up', () => {
    const now = LAST + DAY_MS
    const up = drawn(figureAt(now, 0.06), now).mean
    const down = drawn(figureAt(now, -0.06), now).mean
    expect(up.at(-1)?.[1]).toBeLessThan(up[0]?.[1] ?? 0)
    expect(down.at(-1)?.[1]).toBeGreaterThan(down[0]?.[1] ?? 99)
    const width = (band: [number, number][], at: number) => {
      const ys = band.filter(([x]) => Math.abs(x - at) < 0.01).map(([, y]) => y)
      return Math.max(...ys) - Math.min(...ys)
    }
    const { outer, inner } = drawn(figureAt(now, 0.01), now)
    const xs = outer.map(([x]) => x)
    expect(width(outer, Math.max(...xs))).toBeGreaterThan(width(outer, Math.min(...xs)))
    expect(width(inner, Math.max(...xs))).toBeLessThan(width(outer, Math.max(...xs)))
  })
})
