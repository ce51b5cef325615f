import { text } from 'node:stream/consumers'
import { StartProblem } from '@frustum/server/begin'
import { password } from '@inquirer/prompts'

/** Whether somebody sits there to be asked. */
export const asks = process.stdin.isTTY === true

/** A secret, typed unseen where somebody sits there, else the first line of standard input. */
export async function secret(message: string, validate?: (typed: string) => Promise<true | string>): Promise<string> {
  if (asks) return password(validate ? { message, validate } : { message })
  const [line = ''] = (await text(process.stdin)).split(/\r?\n/)
  return line
}

/** Runs a command; what is wrong is said in one line. */
export async function command(run: () => Promise<void>): Promise<void> {
  try {
    await run()
  } catch (error) {
    if (error instanceof StartProblem) console.error(error.message)
    else if ((error as Error).name === 'ExitPromptError') console.error('Nothing was changed.')
    else throw error
    process.exitCode = 1
  }
}
