import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { readConfig, StartProblem } from '@frustum/server/begin'
import { restoreAtServer } from '@frustum/server/owner'
import { command, secret } from './asking.ts'

/**
 * Puts a backup in the place of a site that is stopped; what was there is kept beside it: `npm run restore -- FILE`.
 * The passphrase of a locked one is asked for, or taken from standard input.
 */
const { positionals } = parseArgs({ allowPositionals: true })

await command(async () => {
  const [file] = positionals
  if (!file) throw new StartProblem('Say which file: npm run restore -- FILE. Nothing was changed.')
  const path = resolve(file)
  if (!existsSync(path)) throw new StartProblem(`There is no file ${path}. Nothing was changed.`)
  const { dataFolder } = readConfig(process.env, null)
  const passphrase = path.endsWith('.aes') ? await secret('Passphrase of the backup:') : ''
  const { site, madeAt, before } = await restoreAtServer(dataFolder, path, passphrase)
  console.log(
    `${site} is back in ${dataFolder}, as it was on ${new Date(madeAt).toISOString().slice(0, 16).replace('T', ' ')} UTC.`,
  )
  if (before) console.log(`What was there before is in ${before}; delete it when it is not needed any more.`)
})
