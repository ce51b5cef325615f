import type { Scale } from '../measurement/measurementModel.ts'
import type { VisitState } from '../procedures/procedure.ts'
import { seesSignal } from '../procedures/setup.ts'
import type { Step } from '../procedures/step.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { expectedSignal, type StepSetting } from './stepSetting.ts'

/**
 * The scale on which a step's readings are judged and shown large: millivolts of electrodes, and of others the value that
 * the device makes of the signal.
 */
export class JudgedScale {
  /** On the screen. */
  readonly scale: Scale
  /** The expected level of the step, on this scale. */
  readonly level: number
  /** One step of the display's last digit at that level, on this scale. */
  readonly rounding: number
  private readonly evidence: VisitState
  private readonly step: Step | null

  constructor(setting: StepSetting) {
    const { step, evidence } = setting
    const { setup, model } = evidence
    this.evidence = evidence
    this.step = step
    const expected = expectedSignal(setting)
    // A dry cell is judged by how near to nothing it is, not by the size of its water.
    const level = step?.medium === 'air' ? 0.1 * expected : expected
    this.scale = this.isDisplay ? model.shownScale(setup.device) : model.signalScale(Math.abs(level))
    this.level = this.fromSignal(level, setup.processTemperature)
    this.rounding = this.displayStep(level, setup.processTemperature)
  }

  /** What the display shows is judged: nothing else is known of a device without a connection that shows values only. */
  get isDisplay(): boolean {
    return !seesSignal(this.evidence.setup)
  }

  /** The device displays its signal, such as millivolts. */
  get showsSignal(): boolean {
    return this.evidence.setup.shows === 'signal' && this.evidence.kind.signalDisplay !== null
  }

  /** The signal itself is judged, as its kind wants, and in place of a sample: the zero is found from it. */
  private get isSignal(): boolean {
    return this.evidence.kind.signalLeads || this.step?.medium === 'air' || this.step?.medium === 'plug'
  }

  private get calibration() {
    return this.evidence.applied?.characteristic ?? this.evidence.setup.activeCalibration
  }

  /** The signal behind a displayed value; null out of its range. */
  signalBehind(shown: number, temperature: number): number | null {
    const { model, setup } = this.evidence
    return nullIfOutOfRange(() => model.fromShown(shown, temperature, this.calibration, setup.device))
  }

  ofReading({ shown, signal, temperature }: { shown: number | null; signal: number; temperature: number }): number {
    return this.isDisplay && shown !== null ? shown : this.fromSignal(signal, temperature)
  }

  fromSignal(signal: number, temperature: number): number {
    const { model, setup } = this.evidence
    if (this.isDisplay) {
      return nullIfOutOfRange(() => model.toShown(signal, temperature, this.calibration, setup.device)) ?? signal
    }
    if (this.isSignal) return signal * this.scale.factor
    const value = nullIfOutOfRange(() => model.valueOf(signal, temperature, this.calibration, setup.device))
    return (value ?? signal) * this.scale.factor
  }

  /** The inverse of fromSignal; the fallback where a number leaves its range. */
  toSignal(judged: number, temperature: number, fallback: number): number {
    const { model, setup } = this.evidence
    if (this.isDisplay) return this.signalBehind(judged, temperature) ?? fallback
    const value = judged / this.scale.factor
    if (this.isSignal) return value
    return nullIfOutOfRange(() => model.signalOf(value, temperature, this.calibration, setup.device)) ?? fallback
  }

  /** A width on this scale as one of the signal. */
  signalWidth(width: number, signal: number, temperature: number): number {
    const centre = this.fromSignal(signal, temperature)
    return Math.abs(this.toSignal(centre + width, temperature, signal * 1.02) - signal)
  }

  /** The signal that the same solution gives at another temperature, where signals are judged; otherwise the same. */
  atTemperature(signal: number, from: number, to: number): number {
    if (!this.isSignal || from === to) return signal
    const { model, setup } = this.evidence
    return (
      nullIfOutOfRange(() => {
        const value = model.valueOf(signal, from, this.calibration, setup.device)
        return model.signalOf(value, to, this.calibration, setup.device)
      }) ?? signal
    )
  }

  private displayStep(signal: number, temperature: number): number {
    const { model, setup, kind } = this.evidence
    const step = 10 ** -model.shownScale(setup.device).decimals
    if (this.showsSignal) return 10 ** -(kind.signalDisplay?.decimals ?? 1) * this.scale.factor
    if (this.isDisplay) return step
    const side = (digits: number) =>
      nullIfOutOfRange(() => {
        const shown = model.toShown(signal, temperature, this.calibration, setup.device)
        return this.fromSignal(
          model.fromShown(shown + digits * step, temperature, this.calibration, setup.device),
          temperature,
        )
      })
    const [low, high] = [side(-0.5), side(0.5)]
    return low === null || high === null ? 0 : Math.abs(high - low)
  }
}
