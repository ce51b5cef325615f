import { spawnSync } from 'node:child_process'
import { ensureChromium } from './chromium.ts'

/** Everything that must hold before a change lands, in order of how soon it tells. */
const STAGES: [string, string[]][] = [
  ['types', ['run', 'types']],
  ['lint', ['run', 'lint']],
  ['unit and server tests', ['run', 'test:unit']],
  ['browser tests', ['run', 'test:browser']],
]

function run(command: string, args: string[]): number {
  return spawnSync(command, args, { stdio: 'inherit' }).status ?? 1
}

ensureChromium()
for (const [name, args] of STAGES) {
  console.log(`\n== ${name}`)
  const status = run('npm', args)
  if (status !== 0) {
    console.error(`\n${name} failed.`)
    process.exit(status)
  }
}
console.log('\nAll of types, lint, unit, server and browser tests passed.')
