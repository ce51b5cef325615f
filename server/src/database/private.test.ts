import { spawnSync } from 'node:child_process'
import { chmodSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it, onTestFinished } from 'vitest'
import { openDatabaseIn } from './open.ts'
import { makePrivate } from './private.ts'

const NOBODY = 65534
const isRoot = process.getuid?.() === 0

it.skipIf(process.platform === 'win32')(
  'no other user of the machine reads or writes a data folder, an old one neither',
  async () => {
    const folder = mkdtempSync(join(tmpdir(), 'frustum-private-'))
    onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
    await (await openDatabaseIn(folder)).close()
    const log = join(
      folder,
      'database',
      'pg_wal',
      readdirSync(join(folder, 'database', 'pg_wal')).find((f) => /^0/.test(f)) ?? '',
    )
    // As earlier versions left it.
    const all = [folder, ...readdirSync(folder, { recursive: true }).map((path) => join(folder, String(path)))]
    for (const path of all) chmodSync(path, statSync(path).isDirectory() ? 0o755 : 0o666)
    writeFileSync(join(folder, 'owner.note'), 'x', { mode: 0o644 })
    makePrivate(folder)
    const open = [...all, join(folder, 'owner.note')].filter((path) => (statSync(path).mode & 0o077) !== 0)
    expect(open).toEqual([])
    // Only root can ask as another user.
    if (!isRoot) return
    for (const command of [`head -c 8 ${log}`, `echo x >> ${log}`, `ls ${folder}`]) {
      const { status } = spawnSync('sh', ['-c', command], { uid: NOBODY, gid: NOBODY })
      expect([command, status]).not.toEqual([command, 0])
    }
  },
)
