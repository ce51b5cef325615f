import { modelOf } from '../kinds/index.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Procedure } from './procedure.ts'
import type { Setup } from './setup.ts'
import { USUAL_PRACTICES } from './workingPractices.ts'

const PROCESS: Record<SensorKind, number> = {
  ph: 8.2,
  orp: 350,
  conductivity: 52_000,
  ion: 40,
  chlorine: 0.5,
  'nitrate-optical': 40,
  temperature: 24,
}

/** An ordinary position for the tests of a procedure, with the standards that it proposes. */
export function testSetup(procedure: Procedure, kind: SensorKind, change: Partial<Setup> = {}): Setup {
  const device = kind === 'orp' ? { reference: 'agcl-3M' as const } : kind === 'ion' ? { ion: 'chloride' as const } : {}
  const subject = { kind, processValue: PROCESS[kind], device }
  return {
    ...subject,
    position: 'XX-1',
    processTemperature: 22,
    tolerance: kind === 'ph' ? 0.1 : 5,
    shows: 'signal',
    linked: true,
    writable: true,
    adjustsBy: 'numbers',
    calibrationKey: 'CAL',
    activeCalibration: modelOf(kind).ideal,
    previous: null,
    standards: Object.fromEntries(
      procedure.roles.map(({ role, propose }) => [role, { code: propose(subject)[0] ?? '', lot: null }]),
    ),
    practices: USUAL_PRACTICES,
    settlingHistory: [],
    authorityRule: null,
    twins: [],
    ...change,
  }
}
