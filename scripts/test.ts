import { spawn } from 'node:child_process'
import { ensureChromium } from './chromium.ts'
import { ensureOutside } from './outside.ts'

type Stage = readonly [name: string, script: string]

/** Everything that must hold before a change lands, in two lanes beside each other, for a machine of two cores. */
const LANES: readonly (readonly Stage[])[] = [
  [
    ['pages', 'build'],
    ['journeys in the browser', 'test:journeys'],
  ],
  [
    ['lint', 'lint'],
    ['types', 'types'],
    ['unit and server tests', 'test:unit'],
  ],
]

/** Runs one stage; what it says is shown when it ends, so that the lanes do not talk at once. */
async function run([name, script]: Stage): Promise<boolean> {
  if (script.startsWith('test:')) await seeded
  const began = performance.now()
  const child = spawn('npm', ['run', '--silent', script], { stdio: ['ignore', 'pipe', 'pipe'] })
  const said: Buffer[] = []
  child.stdout.on('data', (chunk: Buffer) => said.push(chunk))
  child.stderr.on('data', (chunk: Buffer) => said.push(chunk))
  const status = await new Promise((resolve) => child.once('exit', resolve))
  const seconds = Math.round((performance.now() - began) / 1000)
  process.stdout.write(`\n== ${name}: ${status === 0 ? 'passed' : 'FAILED'} in ${seconds} s\n`)
  process.stdout.write(Buffer.concat(said))
  return status === 0
}

/** A lane ends at its first stage that fails. */
async function runLane(stages: readonly Stage[]): Promise<boolean> {
  for (const stage of stages) if (!(await run(stage))) return false
  return true
}

ensureChromium()
ensureOutside()
// Loaded after the first stages have begun, which need no station.
const seeded = import('../e2e/support/station.ts').then(({ seedOnce }) => seedOnce())
const passed = await Promise.all(LANES.map(runLane))
await seeded.then((clear) => clear())
if (passed.includes(false)) {
  console.error('\nNot everything passed; see above.')
  process.exit(1)
}
console.log('\nAll of types, lint, unit, server and browser tests passed.')
process.exit(0)
