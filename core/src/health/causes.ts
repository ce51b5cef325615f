/** What can be wrong with a sensor, or with how it is treated. */
export const CAUSES = [
  'nothing',
  'electrolyte-used-up',
  'electrolyte-contaminated',
  'junction-blocked',
  'glass-aged',
  'glass-coated',
  'glass-cracked',
  'dried-out',
  'bubble',
  'bad-standard',
  'temperature-wrong',
  'connector-wet',
  'ground-loop',
  'ion-tip-spent',
  'interfering-ion',
  'cell-fouled',
  'cell-not-dry',
  'device-reset',
] as const
export type Cause = (typeof CAUSES)[number]

export interface CauseWords {
  name: string
  remedy: string
  /** Where the electrolyte is a gel, or sealed in: nothing can be refilled. */
  sealedRemedy?: string
  /** Nothing that is done at a visit brings the sensor back. */
  final?: boolean
}

export const CAUSE_WORDS: Record<Cause, CauseWords> = {
  nothing: { name: 'nothing wrong', remedy: 'Leave it alone until its next date.' },
  'electrolyte-used-up': {
    name: 'electrolyte used up',
    remedy: 'Refill it with the KCl it is made for, or replace it where it cannot be refilled; then calibrate.',
    sealedRemedy:
      'Its electrolyte cannot be renewed: leave it in storage solution over night, calibrate, and order the next one.',
  },
  'electrolyte-contaminated': {
    name: 'electrolyte contaminated',
    remedy: 'Refilling seldom lasts: drain, rinse and refill twice, or replace it. Find out what got in.',
    sealedRemedy: 'What got in stays in: replace it, and find out what it was.',
  },
  'junction-blocked': {
    name: 'junction blocked',
    remedy:
      'Clean the junction as its maker says, soak it in warm KCl over night, and test it again. If that does not help, replace it.',
  },
  'glass-aged': { name: 'glass aged', remedy: 'Order a spare and calibrate more often until it is there.' },
  'glass-coated': { name: 'glass coated', remedy: 'Clean it at each visit and bring the next cleaning forward.' },
  'glass-cracked': { name: 'glass cracked', remedy: 'Replace it. Wear gloves: broken glass.', final: true },
  'dried-out': { name: 'dried out', remedy: 'Soak it in storage solution for 24 h, then calibrate.' },
  bubble: { name: 'bubble on the tip', remedy: 'Tap it off, hang the probe at a slant, and take the points again.' },
  'bad-standard': {
    name: 'bad or swapped standard',
    remedy: 'Throw the poured standards away, pour from another lot, and take the points again.',
  },
  'temperature-wrong': {
    name: 'temperature sensor wrong',
    remedy: 'Compare it with two thermometers and correct its offset, or replace it.',
  },
  'connector-wet': {
    name: 'connector wet or cable noisy',
    remedy: 'Power off, dry the connector and the socket, and look for a damaged cable.',
  },
  'ground-loop': {
    name: 'ground loop or stray voltage',
    remedy:
      'Unplug the equipment in this water one by one until the reading stands still. Mains faults are work for a licensed electrician.',
  },
  'ion-tip-spent': {
    name: 'ion tip spent',
    remedy: 'Replace the tip, hydrate it for 24 h, and commission it.',
    final: true,
  },
  'interfering-ion': {
    name: 'interfering ion',
    remedy: 'Have a sample analysed for what interferes, and enter its concentration, or correct by grab sample.',
  },
  'cell-fouled': {
    name: 'cell fouled',
    remedy: 'Rub the face hard with the cleaner, rinse, and test in fresh standard.',
  },
  'cell-not-dry': {
    name: 'cell not dry at zero',
    remedy: 'Blow it out, let it dry for two hours, and take the zero again.',
  },
  'device-reset': {
    name: 'device reset',
    remedy: 'Write the last calibration to the device again, and note when its power failed.',
  },
}
