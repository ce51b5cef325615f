import { basename } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import {
  backupSettingsBody,
  ENDPOINTS,
  operatorBody,
  PASSPHRASE_HEADER,
  type RestoringView,
  restoreBody,
} from '@frustum/contract'
import { type Response, Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, serve } from '../http/serve.ts'
import { readBody } from '../http/validate.ts'
import { Problem } from '../problem.ts'
import type { Backups } from './backups.ts'
import { everything } from './everything.ts'

/** Backups of the site: made, taken away as files, and put back. */
export function backupRoutes({ db, clock }: RouteContext, backups: Backups, restart: () => void) {
  const router = Router()
  serve(router, ENDPOINTS.backup, () => backups.view())
  accept(router, ENDPOINTS.makeBackup, operatorBody, async ({ body }) => {
    await backups.make(body.operator)
    return backups.view()
  })
  accept(router, ENDPOINTS.setBackup, backupSettingsBody, async ({ body: { operator, passphrase, ...settings } }) => {
    await backups.set(passphrase === undefined ? settings : { ...settings, passphrase }, operator)
    return backups.view()
  })
  router.get(ENDPOINTS.backupFile.path, async (req, res) => {
    const path = await backups.pathOf(req.params.file as string)
    res.download(path, basename(path), { dotfiles: 'allow', headers: { 'Cache-Control': 'no-store' } })
  })
  router.get(ENDPOINTS.everything.path, async (_req, res) => {
    const at = new Date(clock.now())
    res.attachment('frustum-everything.json').type('json')
    await pipeline(Readable.from(everything(db, at)), res)
  })
  router.post(ENDPOINTS.restoreBackup.path, async (req, res) => {
    const { file, passphrase } = await readBody(restoreBody, req.body)
    thenRestart(res, await backups.restore(await backups.pathOf(file), passphrase))
  })
  // Read from the disk, not from memory: it is as large as the site.
  router.post(ENDPOINTS.restoreFile.path, async (req, res) => {
    thenRestart(res, await backups.restoreSent(req, passphraseIn(req.get(PASSPHRASE_HEADER) ?? '')))
  })
  /** Whoever asked knows of it before the server ends for a moment. */
  const thenRestart = (res: Response, restored: RestoringView) => {
    res.once('close', restart)
    res.json(restored)
  }
  return router
}

function passphraseIn(header: string): string {
  try {
    return decodeURIComponent(header)
  } catch {
    throw new Problem(400, 'invalid', 'The passphrase cannot be read.', { detail: 'Nothing was changed.' })
  }
}
