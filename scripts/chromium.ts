import { spawnSync } from 'node:child_process'
import { accessSync, constants } from 'node:fs'
import { delimiter, join } from 'node:path'

/** Debian's chromium on the PATH, or null. */
export function chromiumPath(): string | null {
  for (const folder of (process.env.PATH ?? '').split(delimiter)) {
    const path = join(folder, 'chromium')
    try {
      accessSync(path, constants.X_OK)
      return path
    } catch {
      // not in this one
    }
  }
  return null
}

/** For a browser that drives itself, without a network and often as root. */
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
] as const

/** Path of chromium; installs it first where it is missing and may be installed, and otherwise says how and ends. */
export function ensureChromium(): string {
  const found = chromiumPath()
  if (found) return found
  const install = 'apt-get update && apt-get install -y --no-install-recommends chromium'
  if (process.getuid?.() !== 0) {
    console.error(`The browser tests need Debian's chromium. Install it once with:  sudo sh -c '${install}'`)
    process.exit(1)
  }
  console.log('Installing chromium ...')
  const { status } = spawnSync('sh', ['-c', install], { stdio: 'inherit' })
  const installed = chromiumPath()
  if (status !== 0 || !installed) {
    console.error(`Chromium could not be installed. Try by hand:  ${install}`)
    process.exit(1)
  }
  return installed
}
