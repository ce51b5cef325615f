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
