import { type IonCharacteristic, ionToMillivolts } from '../electrode/ionSelective.ts'
import { phToMillivolts } from '../electrode/phElectrode.ts'
import { ionStandard, ionStandardValue } from '../standards/ionStandards.ts'
import { phBufferValue } from '../standards/phBuffers.ts'
import type { IonPoint } from './ionCalibration.ts'
import type { PhPoint } from './phCalibration.ts'

/** What a pH electrode of this zero and slope gives in a buffer, for tests. */
export const phPoint = (bufferCode: string, zero: number, slopeEfficiency: number, temperature = 22): PhPoint => ({
  bufferCode,
  temperature,
  millivolts: phToMillivolts(phBufferValue(bufferCode, temperature), temperature, { zero, slopeEfficiency }),
  millivoltsUncertainty: 1,
})

/** What an ion electrode gives in a standard, for tests. */
export const ionPoint = (code: string, electrode: IonCharacteristic, temperature = 21.3): IonPoint => {
  const standard = ionStandard(code)
  const { activityMolar } = ionStandardValue(standard, temperature)
  return { standard, millivolts: ionToMillivolts(activityMolar, temperature, electrode), uncertainty: 0.5, temperature }
}
