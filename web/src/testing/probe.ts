import type { FleetRow, ProbeView, RoundsRow } from '@frustum/contract'
import {
  DAY_MS,
  type DriftObservation,
  diagnose,
  forecastCone,
  forecastDrift,
  kindOf,
  nextDate,
  type SensorKind,
} from '@frustum/core'
import { NOW } from './bench.ts'

/** A sensor as Rounds show it: eight monthly visits, each finding a little more error than the one before left. */
export function rowOf(kind: SensorKind, change: Partial<RoundsRow> = {}): RoundsRow {
  const { model, verb } = kindOf(kind)
  const { unit, decimals } = model.errorScale
  const tolerance = unit === 'pH' ? 0.1 : 2
  const observations = Array.from(
    { length: 8 },
    (_, i): DriftObservation => ({
      at: NOW - (10 + 30 * (7 - i)) * DAY_MS,
      asFound: i === 0 ? null : 0.3 * tolerance,
      asLeft: 0,
      uncertainty: 0.1 * tolerance,
      adjusted: true,
    }),
  )
  const policy = { tolerance, reliability: 0.95, floorDays: 7, ceilingDays: 90, unit, decimals }
  const forecast = forecastDrift(observations)
  const next = nextDate(forecast, policy)
  return {
    position: 'XX-1',
    place: 'Hall',
    spot: 'Outlet',
    kind,
    quantity: model.quantity({}),
    scale: model.shownScale({}),
    state: 'holding',
    driftState: 'holding',
    reason: next.reason,
    alarm: null,
    differs: null,
    lead: null,
    figure: {
      cone: forecastCone(forecast, tolerance, Math.max(next.at, NOW), 14),
      from: forecast.from,
      outside: 0.01,
      policy,
      next,
      dots: [],
      startsAt: forecast.from,
    },
    outSince: null,
    risk: 0.02,
    consequence: 2,
    linked: false,
    verb,
    openVisit: null,
    live: { at: NOW, blindSince: null, shown: null, temperature: null } as RoundsRow['live'],
    typed: null,
    ...change,
  }
}

export const fleetRowOf = (kind: SensorKind, change: Partial<FleetRow> = {}): FleetRow => ({
  ...rowOf(kind),
  serialNumber: 'G-17',
  slope: null,
  zero: null,
  reference: null,
  trouble: null,
  end: null,
  orderBy: null,
  ...change,
})

export function probeOf(kind: SensorKind, change: Partial<ProbeView> = {}): ProbeView {
  const { model, health } = kindOf(kind)
  const { ranked, tooLittle, next } = diagnose(health, {})
  return {
    ...rowOf(kind),
    health: {
      ranked,
      tooLittle,
      next,
      tested: [],
      troubles: { since: null, past: [] },
      ends: [],
      end: null,
      orderBy: null,
      settling: [],
      settlingSeconds: [],
      shared: null,
      confirmed: [],
      control: null,
    },
    setAside: [],
    minutesPerVisit: 12,
    processValue: 8,
    processUnit: model.coreUnit,
    serialNumber: 'G-17',
    model: 'glass',
    installedAt: NOW - 400 * DAY_MS,
    cameFrom: [],
    numbersChanged: null,
    writable: false,
    hourMeter: [],
    device: {},
    deviceShows: 'value',
    changes: [],
    cautions: [],
    authorityRule: null,
    processShown: 8,
    errorScale: model.errorScale,
    parameters: model.parameters,
    calibrations: [],
    visits: [],
    events: [],
    activeCalibration: model.ideal,
    ...change,
  }
}
