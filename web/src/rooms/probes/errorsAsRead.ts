import type { ProbeView } from '@frustum/contract'
import { asRead } from '../../components/format.ts'

type Errors = Pick<ProbeView, 'figure' | 'visits' | 'errorScale' | 'health'>

/** The errors of a sensor in the unit of who reads them: those of a temperature sensor may be in °F. */
export function errorsAsRead<T extends Errors>(probe: T): T {
  const { unit, decimals, width } = asRead(probe.errorScale)
  if (unit === probe.errorScale.unit) return probe
  const { figure, health } = probe
  return {
    ...probe,
    errorScale: { ...probe.errorScale, unit, decimals },
    figure: {
      ...figure,
      policy: { ...figure.policy, tolerance: width(figure.policy.tolerance), unit, decimals },
      dots: figure.dots.map((d) => ({ ...d, error: width(d.error), uncertainty: width(d.uncertainty) })),
      cone: figure.cone.map((p) => ({
        ...p,
        mean: width(p.mean),
        low: width(p.low),
        lower: width(p.lower),
        upper: width(p.upper),
        high: width(p.high),
      })),
    },
    health: {
      ...health,
      control: health.control && { low: width(health.control.low), high: width(health.control.high) },
    },
    visits: probe.visits.map((v) => ({
      ...v,
      asFound: v.asFound === null ? null : width(v.asFound),
      asLeft: width(v.asLeft),
      uncertainty: width(v.uncertainty),
    })),
  }
}
