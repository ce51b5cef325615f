import { parseArgs } from 'node:util'
import { givePasswordBody, setUpBody } from '@frustum/contract'
import { readConfig, StartProblem } from '@frustum/server/begin'
import { leadAtServer } from '@frustum/server/owner'
import { input } from '@inquirer/prompts'
import { asks, command, secret } from './asking.ts'

/**
 * Makes a lead with a password, the first or one who lost it: `npm run lead`. Without a terminal:
 * `npm run lead -- --name "A. Fenn" --site "Mill"`, with the password on standard input.
 */
const { values } = parseArgs({ options: { name: { type: 'string' }, site: { type: 'string' } } })

/** What is wrong with it, as a person is told; true where nothing is. */
const told = (check: Promise<unknown>): Promise<true | string> =>
  check.then(
    () => true as const,
    (error: Error) => error.message,
  )
const isName = (key: 'name' | 'person') => (typed: string) => told(setUpBody.validateAt(key, { [key]: typed }))
const isPassword = (typed: string) => told(givePasswordBody.validate({ password: typed }))

async function asked(given: string | undefined, message: string, key: 'name' | 'person'): Promise<string> {
  const typed = given ?? (asks ? await input({ message, validate: isName(key) }) : '')
  const said = await isName(key)(typed)
  if (said !== true) throw new StartProblem(`${said} Nothing was changed.`)
  return typed.trim()
}

await command(async () => {
  const { dataFolder } = readConfig(process.env, null)
  const name = await asked(values.name, 'Your name:', 'person')
  // Asked for where there may be no site yet; one that is there keeps its name.
  const site = await asked(values.site ?? (asks ? undefined : 'Your site'), 'Name of the site, if it is new:', 'name')
  const password = await secret(`Password for ${name}:`, isPassword)
  const said = await isPassword(password)
  if (said !== true) throw new StartProblem(`${said} Nothing was changed.`)
  if (asks && (await secret('The same once more:')) !== password) {
    throw new StartProblem('The two are not the same. Nothing was changed.')
  }
  const timeZone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'
  await leadAtServer(dataFolder, { name, password, site, timeZone })
  console.log(`${name} is a lead and signs in with this password. People sign in from now on.`)
})
