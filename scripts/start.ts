import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { StartProblem } from '@frustum/server/begin'
import qrcode from 'qrcode-generator'
import { buildWeb, WEB_FOLDER } from './buildWeb.ts'
import { runServer } from './runServer.ts'

/**
 * Runs the product on its own data: `npm start`; encrypted for the local network: `npm start -- --lan`, with a
 * certificate of one's own by `--cert FILE --key FILE`.
 */
const { values } = parseArgs({
  options: { lan: { type: 'boolean' }, cert: { type: 'string' }, key: { type: 'string' } },
  // Behind the name of this script, where it is run through another.
  args: process.argv.slice(process.argv[2]?.endsWith('start.ts') ? 3 : 2),
})

function lanOf() {
  const { lan, cert, key } = values
  if (cert === undefined && key === undefined) return lan ? ('own' as const) : null
  if (!lan || cert === undefined || key === undefined) {
    throw new StartProblem('Give --lan, --cert FILE and --key FILE together. Nothing was started.')
  }
  return { certificate: resolve(cert), key: resolve(key) }
}

/** For a camera to read from the screen of a terminal. */
function inBlocks(text: string): string {
  const code = qrcode(0, 'M')
  code.addData(text)
  code.make()
  return code.createASCII(1, 2)
}

await buildWeb()
await runServer({
  env: process.env,
  webFolder: WEB_FOLDER,
  lan: lanOf,
  greeting: ({ url, lan }) => {
    const [address] = lan?.addresses ?? []
    if (!lan || !address) return `Frustum runs at ${url}  (Ctrl-C ends it)`
    const first = lan.authority
      ? `The first time on a phone, open ${address.replace('https', 'http')} and follow its steps.\nSHA-256 of the certificate there: ${lan.authority}`
      : ''
    return [
      `Frustum runs at ${lan.addresses.join(' and ')}, encrypted  (Ctrl-C ends it)`,
      inBlocks(address),
      first,
    ].join('\n')
  },
})
