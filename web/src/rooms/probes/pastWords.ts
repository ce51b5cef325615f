import type { PastView, ProbeView } from '@frustum/contract'
import { asRead, day, fixed, plural, signed } from '../../components/format.ts'

type Scales = { errorScale: ProbeView['errorScale']; figure: { policy: { tolerance: number } } }

/** How far off it was found, and which of the readings before are touched by it. */
export function whatItMeans(past: PastView, { errorScale, figure }: Scales, timeZone: string): string {
  const { unit, decimals, width } = asRead(errorScale)
  const off = (error: number) => `${signed(width(error), decimals)} ${unit}`
  const limit = fixed(width(figure.policy.tolerance), decimals)
  const touched = `${plural(Math.round(past.days), 'day')} and ${plural(past.affected, 'logged reading')} are touched.`
  const [first, ...more] = past.out
  if (!first) return `Found ${off(past.found)} off, within its limit: the readings stand as they are.`
  if (more.length === 0 && first.to === past.to) {
    return `Found ${off(past.found)} off. Under a straight growth it left its limit of ${limit} about ${day(first.from, timeZone)}: ${touched}`
  }
  const spans = past.out.map(
    (o) => `from ${day(o.from, timeZone)} to ${day(o.to, timeZone)} by up to ${off(o.largest)}`,
  )
  return `Found ${off(past.found)} off. In between it was beyond its limit of ${limit}: ${spans.join(', ')}; ${touched}`
}
