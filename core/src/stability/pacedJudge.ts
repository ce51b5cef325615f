import type { Sample, StabilityJudge, StabilityOpinion } from './opinion.ts'
import type { StabilityPreset } from './presets.ts'
import type { SettlingSignature } from './settlingSignature.ts'

/**
 * A judge of a sensor that is quicker or slower than the glass electrodes of which the shapes are: it sees time in
 * units of the sensor's own pace. Signatures of its visits are on that clock too.
 */
export class PacedJudge implements StabilityJudge {
  constructor(
    private readonly inner: StabilityJudge,
    private readonly pace: number,
  ) {}

  push(sample: Sample): StabilityOpinion {
    const { pace } = this
    const opinion = this.inner.push({ ...sample, t: sample.t / pace })
    return {
      ...opinion,
      elapsed: opinion.elapsed * pace,
      ...(opinion.knownAfter === undefined ? {} : { knownAfter: opinion.knownAfter * pace }),
      driftPerMinute: opinion.driftPerMinute / pace,
      secondsToGo: opinion.secondsToGo === null ? null : opinion.secondsToGo * pace,
      nextReadingIn: Math.min(60, Math.max(5, opinion.nextReadingIn * pace)),
    }
  }

  signature(): SettlingSignature | null {
    return this.inner.signature()
  }
}

const unpaced = new WeakMap<StabilityPreset, StabilityPreset>()

/** The preset on the sensor's own clock: the same object for the same preset, so that its hypotheses are made once. */
export function onOwnClock(preset: StabilityPreset): StabilityPreset {
  const { pace = 1, minimumSeconds, limitSeconds, ...rest } = preset
  const found = unpaced.get(preset) ?? {
    ...rest,
    minimumSeconds: minimumSeconds / pace,
    limitSeconds: limitSeconds / pace,
  }
  unpaced.set(preset, found)
  return found
}
