import { celsius, say } from '../quantities/sentence.ts'
import { observeFrom } from './assess.ts'
import type { Assessment, Procedure, VisitState } from './procedure.ts'
import { judgeFacts, resultFields, typedNumberOf } from './sampleJudgement.ts'
import type { FieldSpec, Step } from './step.ts'
import { adjusts, apply, back, clean, foundProcess, hold, release, result } from './steps.ts'

const flowSeen = (e: VisitState) => e.doneAt.flow !== undefined && e.skipped.flow === undefined

function judgeSample(e: VisitState, flowOn = flowSeen(e)): Assessment | null {
  const reading = e.readings.moment
  const lab = e.forms.lab
  if (!reading || !lab) return null
  return judgeFacts(e, {
    reading,
    result: typedNumberOf(e, 'lab', 'result'),
    uncertainty: typedNumberOf(e, 'lab', 'uncertainty'),
    ageHours: typedNumberOf(e, 'lab', 'ageMinutes') / 60,
    flowOn,
    source: String(lab.instruments?.instrument?.name || lab.values.method || 'Sample'),
  })
}

const momentStep = (e: VisitState): Step => ({
  key: 'moment',
  kind: 'capture',
  medium: 'process',
  freezes: true,
  short: 'The moment of the sample',
  title: 'Take the sample at the sensor, and freeze the reading at that moment',
  hint: 'Where the water passes the sensor, not at the other end of the tank. Fill the bottle to the brim and close it.',
  main: 'Freeze reading',
  usualSkips: [],
  after: ['flow'],
  hazards: e.kind.sample?.hazards ?? [],
})

export const SAMPLE: Procedure = {
  id: 'sample',
  name: 'By a grab sample',
  summary: 'The sensor stays in the water. Its reading is frozen, the result may come minutes or days later.',
  needs: 'Sample bottle, kit or laboratory',
  pours: {},
  roles: [],
  version: 1,
  handsOnMinutes: 6,
  steps: (e) => [
    ...(e.kind.inPlace?.(e) ?? []),
    {
      key: 'flow',
      kind: 'confirm',
      short: 'Flow confirmed',
      title: 'Does the water flow past the sensor as it should?',
      hint: 'A sample from standing water is another water.',
      main: 'Confirm flow',
      ticks: ['Flow is on and steady', 'No dosing within the last minutes'],
      usualSkips: [],
      after: [],
    },
    momentStep(e),
    {
      key: 'lab',
      kind: 'form',
      pending: true,
      short: 'Result of the sample',
      title: 'What is the result of the sample?',
      hint: 'You may leave now: it waits on Rounds until the result is there.',
      main: 'Save result',
      usualSkips: [],
      after: ['moment'],
      fields: resultFields(e),
    },
    { ...result(['lab', 'moment'], 'What the sample says', 'flow'), cleanFrom: 'flow' },
    ...(adjusts(e) === false ? [] : [apply(e)]),
  ],
  judge: (e) => judgeSample(e),
  observe: (e) => observeFrom(e, judgeSample(e)),
  // Nobody who noted a sample noted that the water stood.
  past: { points: 0, judge: (e) => judgeSample(e, true) },
}

function judgeKnown(e: VisitState): Assessment | null {
  const reading = e.readings['point-1']
  if (!reading || !e.forms.known) return null
  return judgeFacts(e, {
    reading,
    result: typedNumberOf(e, 'known', 'value'),
    uncertainty: typedNumberOf(e, 'known', 'uncertainty'),
    ageHours: 0,
    flowOn: true,
    source: 'Known standard',
  })
}

export const KNOWN_STANDARD: Procedure = {
  id: 'known-standard',
  name: 'One known standard',
  summary: 'A standard whose value you know, shaded, at a steady temperature. Several attempts are nothing unusual.',
  needs: '2 cups, light shield',
  pours: {},
  roles: [],
  version: 1,
  handsOnMinutes: 12,
  steps: (e) => [
    hold(e),
    foundProcess(e),
    clean(e),
    {
      key: 'known',
      kind: 'form',
      short: 'Value of the standard',
      title: 'Which value has your standard?',
      hint: say`From its label, or as you weighed it in. Nitrate standards are kept at ${celsius(4, 0)} to ${celsius(8, 0)} in the dark.`,
      main: 'Save value',
      usualSkips: [],
      after: ['clean'],
      fields: [
        { ...(resultFields(e)[0] as FieldSpec), key: 'value', label: 'Value of the standard', hint: '' },
        { ...(resultFields(e)[1] as FieldSpec), key: 'uncertainty' },
        { key: 'lot', label: 'Lot', kind: 'text', optional: true },
      ],
    },
    {
      key: 'shield',
      kind: 'confirm',
      short: 'Light shield',
      title: 'Put the light shield on',
      hint: 'Light in the gap reads as something dissolved. Let the standard come to the sensor\u2019s temperature.',
      main: 'Confirm shade',
      ticks: ['Light shield is on', 'Standard and sensor have one temperature'],
      usualSkips: [],
      after: ['clean'],
    },
    {
      key: 'point-1',
      kind: 'capture',
      medium: 'sample',
      short: 'In the standard',
      title: 'Into the standard, shaded',
      hint: `${e.kind.words.immerse} Not valid while its temperature moves: then it is taken again.`,
      main: 'Capture reading',
      usualSkips: [],
      after: ['clean', 'known', 'shield'],
    },
    result(['point-1', 'known'], 'What the standard says', 'known'),
    ...(adjusts(e) === false ? [] : [apply(e)]),
    back(),
    release(),
  ],
  judge: (e) => judgeKnown(e),
  observe: (e) => observeFrom(e, judgeKnown(e)),
}
