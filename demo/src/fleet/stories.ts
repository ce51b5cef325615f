import type {
  ConductivityTruth,
  ElectrodeTruth,
  IonTruth,
  OrpTruth,
  PlainTruth,
  SensorTruth,
} from '@frustum/lab/simulation'

/** A story is what changes; the rest is a sound sensor of its kind. */

export const ph =
  (story: (day: number) => Partial<ElectrodeTruth>) =>
  (day: number): SensorTruth => ({
    kind: 'ph',
    truth: {
      zero: 0,
      slopeEfficiency: 0.985,
      fastTime: 2.2,
      slowShare: 0.025,
      slowTime: 14,
      noise: 0.08,
      step: 0.1,
      coating: 0,
      ...story(day),
    },
  })

export const conductivity =
  (story: (day: number) => Partial<ConductivityTruth> & { size: number }) =>
  (day: number): SensorTruth => {
    const { size, ...own } = story(day)
    return {
      kind: 'conductivity',
      truth: {
        factor: 1,
        zero: 0,
        coating: 0,
        wet: false,
        compensation: { law: 'none' },
        temperatureError: 0,
        fastTime: 1.2,
        slowShare: 0.02,
        slowTime: 5,
        noise: 0.0002 * size,
        step: 0.0001 * size,
        ...own,
      },
    }
  }

export const orp =
  (story: (day: number) => Partial<OrpTruth>) =>
  (day: number): SensorTruth => ({
    kind: 'orp',
    truth: {
      reference: 'agcl-3M',
      offset: 0,
      gain: 1,
      fastTime: 2.5,
      slowShare: 0.04,
      slowTime: 12,
      noise: 0.15,
      step: 0.1,
      ...story(day),
    },
  })

export const ion =
  (
    ionCode: 'chloride' | 'nitrate' | 'ammonium',
    story: (day: number) => Partial<IonTruth> & { zero: number; slope: number },
  ) =>
  (day: number): SensorTruth => {
    const { zero, slope, ...own } = story(day)
    return {
      kind: 'ion',
      ion: ionCode,
      truth: {
        electrode: { zero, slopeEfficiency: slope, charge: ionCode === 'ammonium' ? 1 : -1 },
        zeroPerDegree: 0.3,
        fastTime: 3.5,
        slowShare: 0.05,
        slowTime: 14,
        noise: 0.05,
        step: 0.1,
        ...own,
      },
    }
  }

export const plain =
  (kind: 'chlorine' | 'nitrate-optical' | 'temperature', story: (day: number) => Partial<PlainTruth>) =>
  (day: number): SensorTruth => ({
    kind,
    truth: {
      factor: 1,
      offset: 0,
      fastTime: 4,
      slowShare: 0.03,
      slowTime: 10,
      noise: kind === 'temperature' ? 0.01 : 0.004,
      step: 0.01,
      ...story(day),
    },
  })
