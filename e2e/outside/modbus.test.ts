import { fork } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Mapping } from '@frustum/contract'
import { CONTROLLER_UNIT, fleet, standInUnits } from '@frustum/demo'
import { startStandIns } from '@frustum/lab/stand-ins'
import type { RegisterPlace } from '@frustum/server/protocols'
import { expect, it, onTestFinished } from 'vitest'
import { followed } from '../../lab/src/fixtures/followed.ts'
import { sensorAt } from '../../lab/src/fixtures/sensorAt.ts'
import { PYTHON_FOLDER } from '../../scripts/outside.ts'
import { freePort } from '../support/freePort.ts'
import { said, started } from './programs.ts'

/** Our Modbus against that of others: mbpoll asks our stand-ins, pymodbus answers our link, socat is the serial line. */

it('mbpoll reads from our stand-ins what our own link reads', async () => {
  const units = standInUnits(fleet().filter((s) => s.code === 'CH-pH-1' || s.code === 'CH-pH-3'))
  const standIns = await startStandIns(units)
  onTestFinished(standIns.close)
  const settings = { host: '127.0.0.1', port: standIns.port }
  const { driver, next } = followed({ protocol: 'modbus-tcp', settings })
  driver.follow([sensorAt(1)])
  const ours = await next(1)
  const poll = async (args: string) => {
    const all = ['-m', 'tcp', '-p', String(standIns.port), '-1', '-q', ...args.split(' '), '127.0.0.1']
    const text = await said('mbpoll', all)
    return [...text.matchAll(/^\[\d+\]:\s+([-\d.e+]+)/gm)].map((m) => Number(m[1]))
  }
  // Big-endian floats of the input registers, counted from 0: signal, temperature, value.
  const [signal, temperature, shown] = await poll('-a 1 -0 -r 0 -c 3 -t 3:float -B')
  expect(signal).toBeCloseTo(ours.signal as number, 0)
  expect(temperature).toBeCloseTo(ours.temperature as number, 1)
  expect(shown).toBeCloseTo(ours.shown as number, 1)
  // The controller's: holding registers from 1, low word first, as mbpoll has it by itself.
  const controller = await poll(`-a ${CONTROLLER_UNIT} -r 101 -c 1 -t 4:float`)
  driver.follow([sensorAt(3)])
  expect(controller[0]).toBeCloseTo((await next(3)).shown as number, 1)
})

const place = (change: Partial<RegisterPlace>): RegisterPlace => ({
  table: 'holding',
  address: 0,
  type: 'uint16',
  order: 'ABCD',
  ...change,
})
const channel = (at: Partial<RegisterPlace>, unit = '') => ({ at: place(at), unit, scale: 1, offset: 0 })
const PYTHON = fileURLToPath(new URL('./pymodbusServer.py', import.meta.url))

async function pymodbus(...args: string[]) {
  await started('python3', [PYTHON, ...args], (text) => text.includes('listening'), { PYTHONPATH: PYTHON_FOLDER })
}

/** Floats of pH 7.25 and 24.5 degrees, -12.5 mV with the low word first; outputs by a coil. */
const MAPPING: Mapping = {
  countsFrom: 0,
  value: channel({ address: 0, type: 'float32' }),
  temperature: channel({ address: 2, type: 'float32' }),
  signal: channel({ table: 'input', address: 10, type: 'float32', order: 'CDAB' }),
  calibration: {
    zero: channel({ address: 20, type: 'float32', order: 'CDAB' }),
    slopeEfficiency: { ...channel({ address: 22, type: 'int16' }), scale: 0.1, low: 50, high: 120 },
  },
  writes: true,
  hold: { at: place({ table: 'coil', address: 5, type: 'bit' }), on: 1, off: 0 },
}

it('pymodbus is read and written by our link, floats whole and coils by their own function', async () => {
  const port = await freePort()
  await pymodbus('socket', String(port))
  const { driver, next } = followed({ protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port } })
  driver.follow([sensorAt(7, { mapping: MAPPING })])
  expect(await next(7)).toMatchObject({ shown: 7.25, temperature: 24.5, signal: -12.5 })
  const link = driver.link(7)
  const wrote = await link?.calibration?.write?.({ zero: -3.5, slopeEfficiency: 0.973 })
  expect(wrote).toMatchObject({ zero: -3.5, slopeEfficiency: expect.closeTo(0.973, 6) })
  expect(await link?.calibration?.read()).toEqual(wrote)
  await expect(link?.calibration?.write?.({ zero: 1, slopeEfficiency: 1.3 })).rejects.toThrow('above 120')
  expect(await link?.calibration?.read()).toEqual(wrote)
  await link?.hold?.(true)
  const hold = { ...(MAPPING.hold as NonNullable<Mapping['hold']>), many: true }
  driver.follow([sensorAt(7, { mapping: { ...MAPPING, hold } })])
  await driver.link(7)?.hold?.(false)
  const words = driver.exchanges.list().map((e) => e.sent.toString('hex'))
  // Of unit 7, functions 5 and 15 at coil 5; function 16 of two registers at 20 in one request.
  expect(words.some((w) => w.endsWith('07050005ff00'))).toBe(true)
  expect(words.some((w) => w.endsWith('070f000500010100'))).toBe(true)
  expect(words.some((w) => w.includes('0710001400020400'))).toBe(true)
})

it('a serial port is read as any other, on a line of socat’s', async () => {
  const port = await freePort()
  await pymodbus('rtu', String(port))
  const folder = mkdtempSync(join(tmpdir(), 'frustum-line-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  const ours = join(folder, 'port')
  await started('socat', ['-d', '-d', `pty,raw,echo=0,link=${ours}`, `tcp:127.0.0.1:${port}`], (text) =>
    text.includes('starting data transfer'),
  )
  // The native part of a serial port ends a test runner's thread: it has a process of its own.
  const child = fork(fileURLToPath(new URL('./readSerial.ts', import.meta.url)), [ours, JSON.stringify(MAPPING)], {
    execArgv: ['--import', 'tsx'],
  })
  onTestFinished(() => void child.kill('SIGKILL'))
  const [reading, again] = await new Promise<unknown[]>((resolve, reject) => {
    child.once('message', (heard) => resolve(heard as unknown[]))
    child.once('exit', (code) => reject(new Error(`ended with ${code}`)))
  })
  expect(reading).toMatchObject({ shown: 7.25, temperature: 24.5, signal: -12.5 })
  expect(again).toMatchObject({ shown: 7.25 })
})
