import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { delimiter, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** Debian's packages of the programs that the links are checked against, and which program each brings. */
const PROGRAMS: Readonly<Record<string, readonly string[]>> = {
  mosquitto: ['mosquitto'],
  'mosquitto-clients': ['mosquitto_pub'],
  mbpoll: ['mbpoll'],
  socat: ['socat'],
  curl: ['curl'],
  openssl: ['openssl'],
  python3: ['python3'],
}

/** Where Python finds the module that it serves Modbus with. */
export const PYTHON_FOLDER = fileURLToPath(new URL('../node_modules/.cache/frustum/python', import.meta.url))
const PYMODBUS = 'pymodbus==3.15.0'

/** Programs that a user finds, and those that only root usually does. */
const FOLDERS = [...(process.env.PATH ?? '').split(delimiter), '/usr/sbin', '/usr/local/sbin', '/sbin']

/** Path of a program that is installed, or null. */
export const programPath = (name: string): string | null =>
  FOLDERS.map((folder) => join(folder, name)).find((path) => existsSync(path)) ?? null

/** Installs what is missing of the programs that the links are checked against, or says how and ends. */
export function ensureOutside(): void {
  const missing = Object.keys(PROGRAMS).filter((name) => PROGRAMS[name]?.some((program) => !programPath(program)))
  if (missing.length > 0) {
    // Nothing of it is to run by itself.
    const install = `apt-get update && apt-get install -y --no-install-recommends ${missing.join(' ')}`
    if (process.getuid?.() !== 0) {
      console.error(`The checks against other programs need some. Install them once with:  sudo sh -c '${install}'`)
      process.exit(1)
    }
    console.log(`Installing ${missing.join(', ')} ...`)
    spawnSync('sh', ['-c', install], { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, RUNLEVEL: '1' } })
  }
  if (!existsSync(join(PYTHON_FOLDER, 'pymodbus'))) {
    console.log(`Installing ${PYMODBUS} ...`)
    spawnSync('python3', ['-m', 'pip', 'install', '--quiet', '--retries', '0', '--target', PYTHON_FOLDER, PYMODBUS], {
      stdio: 'inherit',
    })
  }
  const still = Object.values(PROGRAMS)
    .flat()
    .filter((program) => !programPath(program))
  if (!existsSync(join(PYTHON_FOLDER, 'pymodbus'))) still.push(PYMODBUS)
  if (still.length === 0) return
  console.error(`These could not be installed: ${still.join(', ')}. The links are checked against them.`)
  process.exit(1)
}
