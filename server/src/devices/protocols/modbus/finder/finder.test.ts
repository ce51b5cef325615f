import type { FinderView } from '@frustum/contract'
import { expect, it, onTestFinished } from 'vitest'
import { ILLEGAL_ADDRESS, LineProblem } from '../../../lineProblem.ts'
import { encodeRegisters } from '../registers.ts'
import { Finder } from './finder.ts'
import { POLITE_MS } from './scan.ts'

interface Device {
  /** The word of a holding register, null where it has none. */
  word: (address: number) => number | null
  /** Registers that it gives at a time. */
  most?: number
  answerMs?: number
}

/** A bus with devices of its own: what is asked of the rest is not answered. */
function bus(devices: Record<number, Device>) {
  let questions = 0
  const line = {
    inTurn: async <T>({ unit, ask }: { unit: number; ask: (client: never) => Promise<T> }): Promise<T> => {
      questions++
      const device = devices[unit]
      const read = async (address: number, length: number) => {
        if (!device) throw new LineProblem('no-answer', `Unit ${unit} does not answer.`)
        if (device.answerMs) await new Promise((resolve) => setTimeout(resolve, device.answerMs))
        const words = Array.from({ length }, (_, i) => device.word(address + i))
        if (length > (device.most ?? 125) || words.includes(null))
          throw new LineProblem('exception', 'It has no such address.', ILLEGAL_ADDRESS)
        const buffer = Buffer.alloc(2 * length)
        for (const [i, word] of words.entries()) buffer.writeUInt16BE(word ?? 0, 2 * i)
        return { buffer }
      }
      const client = {
        readHoldingRegisters: read,
        readInputRegisters: async (_address: number, _length: number) => {
          if (!device) throw new LineProblem('no-answer', `Unit ${unit} does not answer.`)
          throw new LineProblem('exception', 'It has no such address.', ILLEGAL_ADDRESS)
        },
      }
      return ask(client as never)
    },
  }
  return { line, questions: () => questions }
}

const shownAs = (value: number) => ({
  shown: { value: { value, step: 0.01, unit: '' } },
  typed: { value: value.toFixed(2) },
})

/** Without a rest between questions, unless that is what is tested. */
function search(devices: Record<number, Device>, unit: number | null, everyMs = 0) {
  const { line, questions } = bus(devices)
  const finder = new Finder({ line, everyMs, close: () => undefined }, { unit, ...shownAs(7.29) })
  onTestFinished(() => finder.stop())
  const until = async (isSo: (view: FinderView) => boolean) => {
    await expect.poll(() => isSo(finder.view()), { timeout: 120_000 }).toBe(true)
    return finder.view()
  }
  return { finder, questions, until }
}

/** A float that stands where it should. */
const floatAt = (place: number, value: () => number) => (address: number) =>
  address === place || address === place + 1
    ? encodeRegisters(value(), { type: 'float32', order: 'ABCD' }).readUInt16BE(2 * (address - place))
    : null

const addressOfFirst = ({ found }: FinderView) => {
  const at = found.value?.first[0]?.channel.at
  return at && 'address' in at ? at.address : null
}

it('a device that answers everywhere is read through in about the time that was stated, and watched in a few questions', async () => {
  let ph = 7.29
  const float = floatAt(5310, () => ph)
  const { finder, until, questions } = search({ 1: { word: (a) => (a < 10_000 ? (float(a) ?? a % 977) : null) } }, 1)
  await until((view) => view.readable > 300 && view.secondsLeft !== null)
  const began = performance.now()
  const stated = finder.view().secondsLeft as number
  const done = await until((view) => view.phase === 'watching')
  expect(done.readable).toBe(10_000)
  expect((performance.now() - began) / 1000).toBeLessThan(stated + 5)
  ph = 4.01
  finder.look(shownAs(4.01))
  const found = await until((view) => view.found.value?.looks === 2 && addressOfFirst(view) === 5310)
  expect(found.found.value?.certain).toBe(false)
  const before = questions()
  await new Promise((resolve) => setTimeout(resolve, 2500))
  expect(questions() - before).toBeLessThan(40)
})

it('the time left is stated from the first steps on, also where nearly every register is refused', async () => {
  const { finder, until } = search({ 1: { word: (a) => (a < 10 ? a : null) } }, 1, 2)
  await until((view) => view.secondsLeft !== null)
  const [began, stated] = [performance.now(), finder.view().secondsLeft as number]
  await until((view) => view.phase === 'watching')
  const took = (performance.now() - began) / 1000
  expect(stated).toBeGreaterThan(took / 5)
  expect(stated).toBeLessThan(5 * took)
})

it('a device is left the time between questions that it needs for others', async () => {
  const began = performance.now()
  const { until, questions } = search({ 1: { word: (a) => (a < 300 ? a : null) } }, 1, POLITE_MS)
  await until((view) => view.readable === 300)
  expect((performance.now() - began) / questions()).toBeGreaterThanOrEqual(POLITE_MS - 1)
})

it('a map of four registers far up is found, and in one that gives registers one by one, or ten at a time', async () => {
  for (const [most, from] of [
    [125, 5123],
    [1, 40],
    [10, 40],
  ] as const) {
    const float = floatAt(from + 2, () => 7.29)
    const word = (a: number) => float(a) ?? (a >= from && a < from + (from > 300 ? 4 : 60) ? 7 : null)
    const { until, finder } = search({ 1: { word, most } }, 1)
    const view = await until((v) => addressOfFirst(v) === from + 2)
    expect(view.found.value?.first[0]?.channel).toMatchObject({ at: { type: 'float32' }, scale: 1, offset: 0 })
    finder.stop()
  }
})

it('a reading that was entered wrongly is withdrawn, and the right register was not lost by it', async () => {
  let ph = 7.29
  const float = floatAt(10, () => ph)
  const { finder, until } = search({ 1: { word: (a) => float(a) ?? (a < 60 ? 701 : null) } }, 1)
  await until((view) => addressOfFirst(view) === 10)
  ph = 4.01
  finder.look(shownAs(7.01))
  const wrong = await until((view) => view.found.value?.looks === 2)
  expect(wrong.found.value?.certain).toBe(false)
  finder.look({ shown: {}, typed: {}, withdraw: wrong.looks[1]?.id })
  await until((view) => view.looks.length === 1 && view.found.value?.looks === 1)
  finder.look(shownAs(4.01))
  const right = await until((view) => view.found.value?.looks === 2 && addressOfFirst(view) === 10)
  expect(right.looks).toHaveLength(2)
})

it('where the entered unit is silent, those that answer are proposed, and one of them is searched', async () => {
  const float = floatAt(10, () => 7.29)
  const { finder, until } = search({ 3: { word: float }, 7: { word: () => null } }, 5)
  const view = await until((v) => v.addresses.length === 2)
  expect(view).toMatchObject({ address: null, why: "Unit 5 doesn't answer." })
  expect(view.addresses.map((a) => a.address)).toEqual([{ unit: 3 }, { unit: 7 }])
  finder.look({ shown: {}, typed: {}, address: { unit: 3 } })
  expect(await until((v) => addressOfFirst(v) === 10)).toMatchObject({ address: { unit: 3 }, why: null })
})
