import { openHeldBack } from './otherDiagnosis.ts'

openHeldBack(new Date().toISOString().slice(0, 10))
