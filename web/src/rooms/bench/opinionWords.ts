import type { VisitLive } from '@frustum/contract'
import type { FindingCode, StabilityReason } from '@frustum/core'
import { fixed, text } from '../../components/format.ts'
import { now } from '../../store/clock.ts'

type OpinionTone = 'calm' | 'near' | 'stable' | 'alarm'

/** What a finding is called from across the room. */
const FINDING_WORDS: Partial<Record<FindingCode, string>> = {
  'wrong-standard': 'wrong cup?',
  'left-over-value': 'old value?',
  'unit-slip': 'wrong unit?',
  'wrong-compensation': 'wrong setting?',
  'cell-not-dry': 'not dry',
  'temperature-implausible': 'temperature?',
  'wrong-temperature-input': 'temperature?',
  'carried-over': 'carried over?',
  'beaker-right-tank-wrong': 'the tank?',
  'gap-outside': 'pair?',
  'ph-decides': 'pH?',
  'temperatures-apart': 'pair?',
  'standards-swapped': 'swapped?',
}

/** What is known otherwise than by watching the trace. */
const KNOWN_BY: Partial<Record<StabilityReason, string>> = {
  'sparse-agree': 'Three readings agree.',
  'typed-agree': 'Twice the same.',
  'own-watch': 'By your own watch.',
}

export interface OpinionWords {
  word: string
  /** The judge's own word, where a warning stands before it. */
  also?: string
  detail: string
  tone: OpinionTone
}

/** What the judge says, in words that can be read from across the room. */
export function opinionWords(live: VisitLive, at = now()): OpinionWords {
  const { opinion, blindSince, finding } = live
  if (blindSince)
    return {
      word: 'blind',
      detail: `No answer for ${Math.max(1, Math.round((at - blindSince) / 1000))} s. Check the line; the step goes on by itself.`,
      tone: 'alarm',
    }
  if (!opinion) return { word: 'no reading yet', detail: '', tone: 'calm' }
  if (finding) {
    return {
      word: FINDING_WORDS[finding.code] ?? 'look here',
      detail: `${text(finding.sentence)} ${text(finding.advice)}`,
      tone: finding.severity === 'stop' ? 'alarm' : 'near',
      // A warning does not hold the reading up: what the judge says stands beside it.
      ...(finding.severity === 'stop' ? {} : { also: stateWords(live).word }),
    }
  }
  return stateWords(live)
}

function stateWords(live: VisitLive): OpinionWords {
  const { opinion } = live
  if (!opinion) return { word: 'no reading yet', detail: '', tone: 'calm' }
  if (!live.arrived) {
    if (live.step === 'back') {
      return {
        word: 'not in yet',
        detail:
          'The reading has not moved since the cup. Put it back into the water; if it is in, capture it with a reason.',
        tone: 'calm',
      }
    }
    return {
      word: 'no change',
      detail: 'Reading has not changed. Is the sensor in the cup? If it is, capture it with a reason.',
      tone: 'calm',
    }
  }
  const seconds = opinion.secondsToGo
  switch (opinion.state) {
    case 'stable':
      return { word: 'stable', detail: `Known to ${text(live.wanted)}, and at rest.`, tone: 'stable' }
    case 'known':
      return live.taken
        ? { word: 'known', detail: KNOWN_BY[opinion.reason] ?? `Known to ${text(live.wanted)}.`, tone: 'stable' }
        : {
            word: 'known',
            detail: `Known to ${text(live.wanted)}; watched on to see that it rests.`,
            tone: 'near',
          }
    case 'creeping':
      return {
        word: 'creeping',
        detail: `It does not come to rest, but moves by less than ${text(live.wanted)} in two minutes.`,
        tone: 'stable',
      }
    case 'unsettled':
      return {
        word: 'not settling',
        detail: 'It could not be judged in time. Clean it and try again, or take it with a reason.',
        tone: 'alarm',
      }
    case 'disturbed':
      return opinion.reason === 'noise'
        ? { word: 'noisy', detail: 'Look at cable and plug; unplug pumps and lights in turn.', tone: 'alarm' }
        : { word: 'disturbed', detail: 'A bubble, or it was moved. Tap it once and let it stand.', tone: 'alarm' }
    case 'settling':
      if (opinion.reason === 'typed-once') return { word: 'noted', detail: '', tone: 'calm' }
      if (opinion.reason === 'sparse') {
        const next = fixed(Math.ceil(opinion.nextReadingIn), 0)
        return { word: 'seldom', detail: `The next reading comes in about ${next} s.`, tone: 'calm' }
      }
      if (opinion.reason === 'typed-apart') return { word: 'moving', detail: '', tone: 'calm' }
      return settlingWords(opinion.reason, seconds, text(live.wanted))
  }
}

function settlingWords(reason: string, seconds: number | null, target: string): OpinionWords {
  if (reason === 'temperature-moving') {
    return { word: 'warming or cooling', detail: 'The value stands, its temperature does not yet.', tone: 'near' }
  }
  if (seconds === null) return { word: 'settling', detail: 'Not sure yet how long.', tone: 'calm' }
  const about = `About ${fixed(Math.ceil(seconds), 0)} s, then it is sure to ${target}.`
  return seconds < 20
    ? { word: 'nearly there', detail: about, tone: 'near' }
    : { word: 'settling', detail: about, tone: 'calm' }
}
