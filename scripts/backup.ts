import { parseArgs } from 'node:util'
import { readConfig } from '@frustum/server/begin'
import { backupAtServer } from '@frustum/server/owner'
import { command } from './asking.ts'

/** Makes a backup, of a running site or of one that is stopped: `npm run backup`, or `npm run backup -- --to FOLDER`. */
const { values } = parseArgs({ options: { to: { type: 'string' } } })

await command(async () => {
  const { dataFolder } = readConfig(process.env, null)
  const file = await backupAtServer(dataFolder, values.to)
  console.log(`Backup made and read back: ${file}`)
  if (!file.endsWith('.aes')) {
    console.log('It holds secrets and is not locked: keep it where only you can read it, or set a passphrase.')
  }
})
