import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it, onTestFinished } from 'vitest'
import { finishRestore, RESTORED } from './restored.ts'

/** A data folder with one site, and another beside it that was unpacked, under the name that it has by then. */
function folderWith(name: string): string {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-restored-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  for (const [path, site] of [
    ['database', 'old'],
    [join(name, 'database'), 'new'],
    ['network', 'old'],
    [join(name, 'network'), 'new'],
  ] as const) {
    mkdirSync(join(folder, path), { recursive: true })
    writeFileSync(join(folder, path, 'site'), site)
  }
  return folder
}

const siteIn = (folder: string, part = 'database') => readFileSync(join(folder, part, 'site'), 'utf8')
const asideIn = (folder: string) => readdirSync(folder).find((n) => n.startsWith('before-')) ?? ''

/** What the renames leave when the power goes after each of them. */
const STEPS: ((folder: string) => void)[] = [
  (f) => {
    mkdirSync(join(f, 'before-1'))
    renameSync(join(f, 'database'), join(f, 'before-1', 'database'))
  },
  (f) => renameSync(join(f, RESTORED, 'database'), join(f, 'database')),
  (f) => renameSync(join(f, 'network'), join(f, 'before-1', 'network')),
  (f) => renameSync(join(f, RESTORED, 'network'), join(f, 'network')),
  (f) => rmSync(join(f, RESTORED), { recursive: true }),
]

it('a backup that has not its name yet changes nothing', async () => {
  const folder = folderWith('restore.tmp')
  expect(await finishRestore(folder)).toBeNull()
  expect([siteIn(folder), siteIn(folder, 'network'), asideIn(folder)]).toEqual(['old', 'old', ''])
})

it.each(STEPS.map((_, i) => i))('cut after %i of its moves, the next start makes the others', async (made) => {
  const folder = folderWith(RESTORED)
  for (const step of STEPS.slice(0, made)) step(folder)
  await finishRestore(folder)
  expect([siteIn(folder), siteIn(folder, 'network')]).toEqual(['new', 'new'])
  expect(existsSync(join(folder, RESTORED))).toBe(false)
  // All of what was there is still there, in one folder or two.
  const aside = readdirSync(folder).filter((n) => n.startsWith('before-'))
  const kept = aside.flatMap((n) => readdirSync(join(folder, n)).map((part) => [part, siteIn(join(folder, n), part)]))
  expect(kept.sort()).toEqual([
    ['database', 'old'],
    ['network', 'old'],
  ])
})

it('into an empty folder there is nothing to put aside', async () => {
  const folder = folderWith(RESTORED)
  rmSync(join(folder, 'database'), { recursive: true })
  rmSync(join(folder, 'network'), { recursive: true })
  expect(await finishRestore(folder)).toBeNull()
  expect([siteIn(folder), asideIn(folder)]).toEqual(['new', ''])
})

it('a backup without certificates leaves those that are there', async () => {
  const folder = folderWith(RESTORED)
  rmSync(join(folder, RESTORED, 'network'), { recursive: true })
  cpSync(join(folder, 'network'), join(folder, 'copy'), { recursive: true })
  await finishRestore(folder)
  expect([siteIn(folder), siteIn(folder, 'network')]).toEqual(['new', 'old'])
})
