import { writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { heldBackDiagnosis } from './otherDiagnosis.ts'
import { heldBackForecast } from './otherFleet.ts'
import { heldBackLives } from './otherLives.ts'
import { heldBackSettling } from './otherSettling.ts'

/** What was held back while judge, forecast and diagnosis were changed: the results, with their date, go into docs. */
const today = new Date().toISOString().slice(0, 10)
const text = [
  '# What was held back',
  '',
  ...heldBackSettling(today),
  ...heldBackForecast(today),
  ...heldBackLives(today),
  ...heldBackDiagnosis(today),
].join('\n')
writeFileSync(fileURLToPath(new URL('../../../docs/held-back.md', import.meta.url)), text)
console.log(text)
