import type { RoundsRow, RoundsView } from '@frustum/contract'
import { difference, modelOf, normalisedError, nullIfOutOfRange } from '@frustum/core'
import type { LiveValues } from '../devices/liveValues.ts'
import type { Installed } from '../sensors.ts'
import { areTwins } from '../shown.ts'

type Disagreeing = RoundsView['disagreeing'][number]

/** Redundant sensors whose readings differ by more than their tolerances allow: at least one of them is off. */
export function disagreeingPairs(installed: readonly Installed[], live: LiveValues): Omit<Disagreeing, 'off'>[] {
  return installed.flatMap((a, i) =>
    installed.slice(i + 1).flatMap((b) => {
      if (!areTwins(a, b)) return []
      const [one, other] = [live.current(a.position.code).shown, live.current(b.position.code).shown]
      if (one === null || other === null) return []
      const width = (t: Installed, shown: number) =>
        modelOf(t.position.kind).errorScale.unit === '%'
          ? (Math.abs(shown) * t.position.tolerance) / 200
          : t.position.tolerance / 2
      const [wa, wb] = [width(a, one), width(b, other)]
      // A display that shows nothing, or more than there can be, says nothing of the pair, and takes no room down.
      const en = nullIfOutOfRange(() =>
        normalisedError({ value: one, uncertainty: wa }, { value: other, uncertainty: wb }),
      )
      if (en === null || Math.abs(en) <= 1) return []
      const { unit, decimals } = modelOf(a.position.kind).shownScale(a.device.setting)
      const positions: [string, string] = [a.position.code, b.position.code]
      return [{ positions, difference: one - other, canTell: Math.hypot(wa, wb), unit, decimals }]
    }),
  )
}

/**
 * A pair that differs now and whose forecasts hold both in tolerance: the forecasts count whole days only, so the row
 * of neither may say "in tolerance" until one of them explains the difference.
 */
export function withDisagreement(
  rows: readonly RoundsRow[],
  pairs: readonly Omit<Disagreeing, 'off'>[],
): Pick<RoundsView, 'rows' | 'disagreeing'> {
  const outOf = (code: string) => (rows.find((r) => r.position === code)?.figure.outside ?? 0) > 0.5
  const disagreeing = pairs.map((pair) => ({ ...pair, off: pair.positions.filter(outOf) }))
  const unexplained = disagreeing.filter((pair) => pair.off.length === 0)
  return {
    disagreeing,
    rows: rows.map((row) => {
      const pair = unexplained.find((p) => p.positions.includes(row.position))
      if (!pair) return row
      const { positions, unit, decimals } = pair
      const differs = {
        from: positions.find((code) => code !== row.position) ?? '',
        by: difference(Math.abs(pair.difference), unit, decimals),
      }
      return { ...row, differs, state: row.state === 'holding' || row.state === 'drifting' ? 'suspect' : row.state }
    }),
  }
}
