import { execFile } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
/** Packages that are needed at build only, and whose output is part of the pages. */
const BUILT_IN = ['tailwindcss', 'daisyui']
const LINE = '='.repeat(80)

interface Manifest {
  name: string
  version: string
  private?: boolean
  license?: string
  author?: string | { name: string }
}

/** Folders of all packages that server and pages need when they run. */
async function packageFolders(): Promise<string[]> {
  const args = ['ls', '--all', '--omit=dev', '--parseable', '-w', 'web', '-w', 'server']
  // npm exits with an error for any peer that it doesn't like; the list is complete all the same.
  const { stdout } = await promisify(execFile)('npm', args, { cwd: ROOT, maxBuffer: 2 ** 24 }).catch((error) => error)
  const listed = String(stdout ?? '')
    .split('\n')
    .filter(Boolean)
  if (listed.length === 0) throw new Error("Couldn't list the packages with npm. Run npm ci, then build again.")
  return [...listed, ...BUILT_IN.map((name) => join(ROOT, 'node_modules', name))]
}

function noticeOf(folder: string): string | null {
  const manifest = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8')) as Manifest
  if (manifest.private) return null
  const { name, version, license = 'License not stated', author = '' } = manifest
  const by = typeof author === 'string' ? author : author.name
  const texts = readdirSync(folder)
    .filter((file) => /^(licen[cs]e|copying|notice)/i.test(file))
    .map((file) => readFileSync(join(folder, file), 'utf8').trim())
  return [`${name} ${version}`, [license, by].filter(Boolean).join(', '), '', ...texts].join('\n').trimEnd()
}

/** Writes the licenses of all third-party packages into one text file. */
export async function writeLicenses(path: string): Promise<void> {
  const folders = new Set(await packageFolders())
  const notices = [...folders].flatMap((folder) => noticeOf(folder) ?? []).sort()
  writeFileSync(path, `Frustum includes these packages.\n\n${notices.join(`\n\n${LINE}\n\n`)}\n`)
}
