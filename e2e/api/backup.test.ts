import { createHash } from 'node:crypto'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import {
  type BackupView,
  PASSPHRASE_HEADER,
  type ProblemView,
  type RestoringView,
  type RoundsView,
} from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { backupAtServer, leadAtServer, restoreAtServer } from '@frustum/server/owner'
import { sql } from 'drizzle-orm'
import pino from 'pino'
import { create } from 'tar'
import { expect, it, onTestFinished, vi } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { Backups } from '../../server/src/backup/backups.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** A backup is the whole site, row by row; and a damaged one is refused. */

const LIST = 'code,kind,place,water\nT1-pH,pH,Hall,nutrient\nT2-EC,conductivity,Hall,nutrient'
const PAST = [
  'Date;Tag;pH 7 before;pH 10 before;pH 7 after;Temp (°C);Slope (%);Offset (mV);By',
  '13.04.2025;T1-pH;7,05;9,92;7,00;25;96,5;-3,2;AF',
  '22.07.2025;T1-pH;7,08;9,88;7,01;25;95,1;-4;AF',
].join('\n')
const PASSPHRASE = 'three wet otters'
const USUAL = { operator, folder: '', nightly: true, hour: 2, keepDays: 7, keepWeeks: 4, keepMonths: 12 }

/** Every row of every table, but who is signed in and what a running server learns by itself: of a site that is stopped. */
async function rowsIn(folder: string): Promise<Record<string, unknown[]>> {
  const { db, close } = await openDatabaseIn(folder)
  const names = await db.execute<{ name: string }>(
    sql`select table_schema || '.' || table_name as name from information_schema.tables
        where table_schema in ('public', 'drizzle') and table_name not in ('sessions', 'learned_days') order by 1`,
  )
  const rows: Record<string, unknown[]> = {}
  for (const { name } of names.rows) {
    const all = await db.execute<{ row: unknown }>(sql.raw(`select to_jsonb(t) as row from ${name} t order by 1`))
    rows[name] = all.rows.map((r) => r.row)
  }
  await close()
  return rows
}

function newFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-backup-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A site with past visits, a bottle, a photo, an open visit, and a lead with a password. */
async function fullSite() {
  const site = await ownSite(LIST)
  expect((await site.bring(PAST, { take: true })).body.taken).toBe(2)
  const photo = await fetch(`${site.url()}/api/photos`, {
    method: 'POST',
    headers: { 'content-type': 'image/png' },
    // One grey pixel.
    body: Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNoAAAAggCBd81ytgAAAABJRU5ErkJggg==',
      'base64',
    ),
  })
  expect(photo.status).toBe(201)
  const started = await site.ask('visits', {
    clientId: '6f0b7a9e-40f5-4a0e-9d3c-0a4a3c0c1b11',
    operator,
    position: 'T1-pH',
    procedure: 'ph-check',
    standards: { first: 'pH7.00', second: 'pH10.01' },
  })
  expect(started.status, JSON.stringify(started.body)).toBe(201)
  return site
}

it('a locked backup brings back the site row by row, and leaves nobody signed in', async () => {
  const site = await fullSite()
  await site.stop()
  await leadAtServer(site.folder, { name: operator, password: 'slow tide at noon', site: 'Mill', timeZone: 'UTC' })
  await site.restart()
  let cookie = ''
  const lead = async <T>(path: string, body?: object) => {
    const answer = await fetch(`${site.url()}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: { 'content-type': 'application/json', cookie },
    })
    cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? cookie
    return { status: answer.status, body: (await answer.json()) as T & ProblemView }
  }
  await lead('me/sign-in', { name: operator, password: 'slow tide at noon' })
  expect((await lead('backup/settings', { ...USUAL, passphrase: PASSPHRASE })).status).toBe(200)
  await site.stop()
  const before = await rowsIn(site.folder)
  expect(before['public.visits']?.length).toBeGreaterThanOrEqual(2)
  expect(before['public.photos']).toHaveLength(1)
  expect(before['public.credentials']).toHaveLength(1)
  await site.restart()

  const { body: made } = await lead<BackupView>('backup/make', { operator })
  const [file] = made.files
  expect(file).toMatchObject({ locked: true })
  const path = join(made.path, file?.file ?? '')
  // As anybody can check, and without a word of the site to be read in it.
  const bytes = readFileSync(path)
  expect(readFileSync(`${path}.sha256`, 'utf8')).toBe(
    `${createHash('sha256').update(bytes).digest('hex')}  ${file?.file}\n`,
  )
  expect(bytes.includes('manifest')).toBe(false)
  expect(readdirSync(site.folder).filter((name) => name.endsWith('.tmp'))).toEqual([])

  await lead('rig/person', { operator, values: { name: 'D. Kay' } })
  const asked = { operator, file: file?.file, passphrase: 'three dry otters' }
  expect((await lead('backup/restore', asked)).body.code).toBe('wrong-passphrase')
  expect((await lead('site')).status).toBe(200)
  const { body: back } = await lead<RestoringView>('backup/restore', { ...asked, passphrase: PASSPHRASE })
  expect(back.site).toBe('Mill')
  await site.asksRestart()
  await site.restart()
  expect((await lead('site')).status).toBe(401)
  await site.stop()
  expect(await rowsIn(site.folder)).toEqual(before)
  // What was there before is still to be had.
  const aside = readdirSync(site.folder).find((name) => name.startsWith('before-')) ?? ''
  const old = newFolder()
  cpSync(join(site.folder, aside), old, { recursive: true })
  expect(JSON.stringify((await rowsIn(old))['public.operators'])).toContain('D. Kay')
})

it('at the server: of a running site and a stopped one, into an empty folder, and refused where one runs', async () => {
  const site = await fullSite()
  const secret = (await site.get<{ calendarPath: string }>('plan')).calendarPath.split('/').at(-1)?.slice(0, 32)
  const all = await (await fetch(`${site.url()}/api/backup/everything.json`)).text()
  const { tables } = JSON.parse(all) as { tables: Record<string, { id: unknown }[]> }
  expect(tables.visits).toHaveLength(3)
  expect(tables.visit_entries?.length).toBeGreaterThan(3)
  expect([tables.photos?.length, tables.operators?.length]).toEqual([1, 1])
  expect(tables.credentials ?? tables.sessions).toBeUndefined()
  expect([secret?.length, all.includes(secret ?? ''), all.includes('passphrase')]).toEqual([32, false, false])
  const to = newFolder()
  const running = await backupAtServer(site.folder, to)
  await expect(restoreAtServer(site.folder, running, '')).rejects.toThrow(/in use by process \d+.*Nothing was changed/)
  await site.stop()
  // Of a site that is stopped it is made by the command itself.
  const made = heavy(0, 1) === 0 ? [running] : [running, await backupAtServer(site.folder, to)]
  expect(readdirSync(to).sort()).toEqual(made.flatMap((f) => [basename(f), `${basename(f)}.sha256`]))
  const empty = newFolder()
  expect(await restoreAtServer(empty, running, '')).toMatchObject({ site: 'Mill', before: null })
  const [{ 'public.backups': _, ...rows }, { 'public.backups': __, ...expected }] = [
    await rowsIn(empty),
    await rowsIn(site.folder),
  ]
  expect(rows).toEqual(expected)
})

it('by itself every night, and the old ones go', async () => {
  const folder = newFolder()
  await leadAtServer(folder, { name: operator, password: 'slow tide at noon', site: 'Mill', timeZone: 'UTC' })
  const { db, close } = await openDatabaseIn(folder)
  let now = Date.UTC(2026, 5, 10, 1, 30)
  const backups = new Backups({
    db,
    clock: { now: () => now, rate: 1 },
    log: pino({ level: 'silent' }),
    dataFolder: folder,
    mustSignIn: false,
  })
  const { operator: by, ...settings } = { ...USUAL, keepDays: 1, keepWeeks: 0, keepMonths: 0 }
  await backups.set(settings, by)
  const files = async () => (await backups.view()).files.map((f) => new Date(f.at).toISOString().slice(0, 16))
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  const stop = backups.everyNight()
  /** Until what is due at this time is made. */
  const at = async (time: number, minutes = 1) => {
    now = time
    vi.advanceTimersByTime(minutes * 60_000)
    for (let looks = 0; looks < 50; looks++) await db.execute(sql`select 1`)
    await backups.idle()
    return files()
  }
  try {
    expect(await at(now, 9)).toEqual([])
    expect(await at(now, 1)).toEqual(['2026-06-10T01:30'])
    // Not before two in the morning, once, and again the night after, when the older one goes.
    expect(await at(Date.UTC(2026, 5, 10, 1, 59))).toEqual(['2026-06-10T01:30'])
    expect(await at(Date.UTC(2026, 5, 10, 2, 0))).toEqual(['2026-06-10T02:00'])
    if (heavy(0, 1) === 0) return
    expect(await at(Date.UTC(2026, 5, 11, 1, 59))).toEqual(['2026-06-10T02:00'])
    // The clock of the server was a year ahead for a while: what was made then holds up nothing.
    expect(await at(Date.UTC(2027, 5, 11, 2, 0))).toEqual(['2027-06-11T02:00'])
    expect(await at(Date.UTC(2026, 5, 12, 2, 0))).toEqual(['2026-06-12T02:00'])
  } finally {
    stop()
    vi.useRealTimers()
    await close()
  }
})

it('rotation deletes scheduled backups alone, and keeps the newest of each passphrase', async () => {
  const folder = newFolder()
  await leadAtServer(folder, { name: operator, password: 'slow tide at noon', site: 'Mill', timeZone: 'UTC' })
  const { db, close } = await openDatabaseIn(folder)
  let now = Date.UTC(2026, 5, 10, 2, 0)
  const parts = { db, clock: { now: () => now, rate: 1 }, log: pino({ level: 'silent' }), dataFolder: folder }
  const backups = new Backups({ ...parts, mustSignIn: false })
  const { operator: by, ...settings } = { ...USUAL, keepDays: 1, keepWeeks: 0, keepMonths: 0 }
  const make = async (who: string | null, minute: number) => {
    now = Date.UTC(2026, 5, 10, 2, minute)
    return basename(await backups.make(who))
  }
  try {
    await backups.set({ ...settings, passphrase: PASSPHRASE }, by)
    const byHand = [await make(operator, 0), await make(operator, 1)]
    const first = await make(null, 2)
    const good = await make(null, 3)
    await backups.set({ ...settings, passphrase: 'three wet ottters' }, by)
    const mistyped = await make(null, 4)
    byHand.push(await make(operator, 5))
    const left = (await backups.view()).files.map((f) => f.file)
    expect(left).not.toContain(first)
    expect(left.toSorted()).toEqual([...byHand, good, mistyped].toSorted())
  } finally {
    await close()
  }
})

it('through the first run’s door: a file, sent to a server without a site', async () => {
  const site = await ownSite(LIST)
  await site.ask('backup/settings', { ...USUAL, passphrase: PASSPHRASE })
  const { body: made } = await site.ask<BackupView>('backup/make', { operator })
  const bytes = readFileSync(join(made.path, made.files[0]?.file ?? ''))
  const empty = await ownSite('')
  const send = (body: Uint8Array<ArrayBuffer>, passphrase: string) =>
    fetch(`${empty.url()}/api/backup/restore-file`, {
      method: 'POST',
      body,
      headers: { 'content-type': 'application/octet-stream', [PASSPHRASE_HEADER]: encodeURIComponent(passphrase) },
    })
  const refused = async (body: Uint8Array<ArrayBuffer>, passphrase: string) =>
    ((await (await send(body, passphrase)).json()) as ProblemView).code
  expect(await refused(bytes, '')).toBe('passphrase-needed')
  expect(await refused(bytes, 'wrong')).toBe('wrong-passphrase')
  expect(await refused(bytes.subarray(0, bytes.length - 1), PASSPHRASE)).toBe('wrong-passphrase')
  for (const at of [20, bytes.length >> 1]) {
    const spoilt = Uint8Array.from(bytes)
    spoilt[at] = (spoilt[at] as number) ^ 1
    expect(await refused(spoilt, PASSPHRASE)).toBe('wrong-passphrase')
  }
  expect(await refused(bytes.subarray(0, 30), PASSPHRASE)).toBe('no-backup')
  expect(await refused(new TextEncoder().encode('no backup at all'), '')).toBe('no-backup')
  expect(await refused(new Uint8Array(), '')).toBe('no-backup')
  expect((await send(bytes, '%E0%A4%A')).status).toBe(400)
  expect((await empty.ask<{ exists: boolean }>('site')).body.exists).toBe(false)
  expect(readdirSync(empty.folder).filter((name) => name.endsWith('.tmp'))).toEqual([])
  // Sent twice at once, one is put back and the other told so.
  const both = await Promise.all([send(bytes, PASSPHRASE), send(bytes, PASSPHRASE)])
  expect(both.map((b) => b.status).sort()).toEqual([200, 409])
  await empty.asksRestart()
  await empty.restart()
  expect((await empty.ask<{ name: string }>('site')).body).toMatchObject({ exists: true, name: 'Mill' })
})

it('an archive that was made by hand writes nowhere else, and is refused where it is not what it says', async () => {
  const empty = await ownSite('')
  const folder = newFolder()
  const packed = async (files: Record<string, string>) => {
    const from = newFolder()
    for (const [path, text] of Object.entries(files)) {
      mkdirSync(join(from, path, '..'), { recursive: true })
      writeFileSync(join(from, path), text)
    }
    const file = join(folder, 'made.tar.gz')
    await create({ cwd: from, gzip: true, file }, ['.'])
    return readFileSync(file)
  }
  const code = async (files: Record<string, string>) => {
    const answer = await fetch(`${empty.url()}/api/backup/restore-file`, {
      method: 'POST',
      body: await packed(files),
      headers: { 'content-type': 'application/octet-stream' },
    })
    return ((await answer.json()) as ProblemView).code
  }
  const manifest = (more: object) => JSON.stringify({ format: 'frustum-backup', version: 1, sha256: {}, ...more })
  expect(await code({ 'a.txt': 'a' })).toBe('no-backup')
  expect(await code({ 'manifest.json': '{' })).toBe('no-backup')
  expect(await code({ 'manifest.json': manifest({ version: 2 }) })).toBe('newer-backup')
  expect(await code({ 'manifest.json': manifest({}), 'database/PG_VERSION': '17' })).toBe('damaged-backup')
  expect(await code({ 'manifest.json': manifest({ sha256: { 'database/PG_VERSION': 'x' } }) })).toBe('damaged-backup')
  expect(await code({ 'manifest.json': manifest({}) })).toBe('unfit-backup')
  expect((await empty.ask<{ exists: boolean }>('site')).body.exists).toBe(false)
})

it('Rounds says when the last good one is too old, and why; a folder that cannot be is refused when it is set', async () => {
  const site = await ownSite(LIST)
  const warning = async () => (await site.get<RoundsView>('rounds')).toDo.find((t) => t.kind === 'backup') ?? null
  const DAY = 86_400_000
  expect(await warning()).toBeNull()
  site.clock.set(site.clock.now() + 3 * DAY)
  expect(JSON.stringify(await warning())).toContain('There is no backup yet.')
  await site.ask('backup/make', { operator })
  expect(await warning()).toBeNull()
  const inTheWay = join(site.folder, 'a-file')
  writeFileSync(inTheWay, '')
  for (const folder of ['backups', join(inTheWay, 'deeper'), '/proc/none']) {
    const { status, body } = await site.ask('backup/settings', { ...USUAL, folder })
    expect([folder, status, Object.keys(body.fields ?? {})]).toEqual([folder, 400, ['folder']])
  }
  const elsewhere = join(site.folder, 'other-disk')
  expect((await site.ask('backup/settings', { ...USUAL, folder: elsewhere })).status).toBe(200)
  // The disk is gone: nothing is written where it was.
  rmSync(elsewhere, { recursive: true })
  expect((await site.ask('backup/make', { operator })).body.message).toContain('is not there, or is no folder')
  expect(existsSync(elsewhere)).toBe(false)
  expect(JSON.stringify(await warning())).toContain('is not there, or is no folder')
  expect((await site.ask('backup/settings', { ...USUAL, nightly: false })).status).toBe(200)
  expect(await warning()).toBeNull()
})
