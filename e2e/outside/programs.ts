import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { promisify } from 'node:util'
import { onTestFinished } from 'vitest'
import { programPath } from '../../scripts/outside.ts'

/** Path of a program of somebody else's. @throws where it is not installed */
export function program(name: string): string {
  const path = programPath(name)
  if (!path) throw new Error(`${name} is not installed; npm test installs it.`)
  return path
}

/** Starts one that is ended with the test, and waits until it says that it is there, or answers. */
export async function started(
  name: string,
  args: readonly string[],
  isThere: (said: string) => boolean,
  env: NodeJS.ProcessEnv = {},
): Promise<ChildProcess> {
  const child = spawn(program(name), [...args], { stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, ...env } })
  onTestFinished(() => void child.kill('SIGKILL'))
  let said = ''
  await new Promise<void>((resolve, reject) => {
    const hear = (chunk: Buffer) => {
      said += chunk.toString()
      if (isThere(said)) resolve()
    }
    child.stdout?.on('data', hear)
    child.stderr?.on('data', hear)
    child.once('exit', (code) => reject(new Error(`${name} ended with ${code}: ${said}`)))
  })
  return child
}

const run = promisify(execFile)

/** Runs one to its end, and says what it said. @throws where it ends badly */
export const said = async (name: string, args: readonly string[]): Promise<string> =>
  (await run(program(name), [...args], { timeout: 60_000 })).stdout
