import { CAUSE_WORDS, CAUSES, type Cause } from './causes.ts'
import {
  type Answer,
  type DiagnosticEvidence,
  type DiagnosticTest,
  FEATURE_WORDS,
  FEATURES,
  type Feature,
  TESTS,
} from './features.ts'
import type { HealthTraits } from './healthTraits.ts'
import { LIKELIHOODS, SOUND } from './likelihoods.ts'

/** One answer and how much it speaks for a cause. */
interface Argument {
  feature: Feature
  text: string
  because: string
  /** Times as likely under this cause as under all others together; above 1 speaks for it. */
  ratio: number
}

export interface RankedCause {
  cause: Cause
  name: string
  probability: number
  evidenceFor: Argument[]
  evidenceAgainst: Argument[]
  remedy: string
}

export interface NextTest extends DiagnosticTest {
  /** Expected information on which of the first two it is, in bits. */
  bits: number
  /** What each outcome would mean. */
  outcomes: { answer: string; favours: string }[]
}

export interface Diagnosis {
  ranked: RankedCause[]
  /** Too little is known to name a cause: the first is as likely wrong as right, or more so. */
  tooLittle: boolean
  next: NextTest | null
}

/** Answers are not independent given a cause; each counts a little less than if they were. Set against simulated histories. */
const DEPENDENCE = 0.95
/** No answer is impossible. */
const LEAST_CHANCE = 0.004
/** An argument worth naming. */
const TELLING = 1.6
/** Below this the first cause is not named as one. */
const ENOUGH = 0.42
/** A test worth naming, bits. */
const LEAST_BITS = 0.08

/**
 * Ranked causes of what is seen on a sensor: Bayes' rule with the table of likelihoods, answers taken for nearly
 * independent. Nothing seen gives the causes as common as they are.
 * @param evidence answers that are known; unknown ones are left out
 * @param options `sealed`: its electrolyte is a gel or sealed in, and nothing is advised that would refill it
 * @throws RangeError for an answer that the feature does not have
 */
export function diagnose(
  traits: HealthTraits,
  evidence: DiagnosticEvidence,
  { sealed = false }: { sealed?: boolean } = {},
): Diagnosis {
  const known = Object.entries(evidence) as [Feature, Answer][]
  for (const [feature, answer] of known) indexOf(feature, answer)
  const possible = CAUSES.filter((c) => (traits.causes[c] ?? 0) > 0)
  const logs = possible.map(
    (cause) =>
      Math.log(traits.causes[cause] as number) +
      known.reduce((sum, [f, a]) => sum + DEPENDENCE * Math.log(chance(cause, f, a)), 0),
  )
  const probabilities = normalised(logs)
  const ranked = possible
    .map((cause, i) => ({ cause, probability: probabilities[i] as number }))
    .sort((a, b) => b.probability - a.probability)
  return {
    ranked: ranked.map(({ cause, probability }) => ({
      cause,
      probability,
      name: CAUSE_WORDS[cause].name,
      remedy: (sealed ? CAUSE_WORDS[cause].sealedRemedy : undefined) ?? CAUSE_WORDS[cause].remedy,
      ...argumentsOf(traits, cause, known, ranked),
    })),
    tooLittle: (ranked[0]?.probability ?? 0) < ENOUGH,
    next: nextTest(traits, evidence, { ranked, sealed }),
  }
}

function indexOf(feature: Feature, answer: Answer): number {
  const i = (FEATURES[feature] as readonly string[] | undefined)?.indexOf(answer) ?? -1
  if (i < 0) throw new RangeError(`"${answer}" is no answer to "${feature}".`)
  return i
}

/** Chance of an answer under a cause. */
function chance(cause: Cause, feature: Feature, answer: Answer): number {
  const chances = LIKELIHOODS[cause][feature]?.chances ?? SOUND[feature]
  return Math.max(chances[indexOf(feature, answer)] as number, LEAST_CHANCE)
}

function normalised(logs: readonly number[]): number[] {
  const top = Math.max(...logs)
  const weights = logs.map((l) => Math.exp(l - top))
  const total = weights.reduce((a, b) => a + b, 0)
  return weights.map((w) => w / total)
}

type Ranking = readonly { cause: Cause; probability: number }[]

/** Cells have no slope; what is followed in its place is what one over the cell factor does. */
const featureWords = (traits: HealthTraits, feature: Feature): string =>
  traits.cell && feature === 'slopeCourse' ? 'Course of the cell' : FEATURE_WORDS[feature]

function argumentsOf(traits: HealthTraits, cause: Cause, known: readonly [Feature, Answer][], ranking: Ranking) {
  const others = ranking.filter((r) => r.cause !== cause)
  const total = others.reduce((sum, r) => sum + r.probability, 0) || 1
  const all = known
    .map(([feature, answer]): Argument => {
      const otherwise = others.reduce((sum, r) => sum + (r.probability / total) * chance(r.cause, feature, answer), 0)
      return {
        feature,
        text: `${featureWords(traits, feature)}: ${answer}`,
        because: LIKELIHOODS[cause][feature]?.because ?? 'it leaves this as it is',
        ratio: chance(cause, feature, answer) / otherwise,
      }
    })
    .sort((a, b) => b.ratio - a.ratio)
  return {
    evidenceFor: all.filter((a) => a.ratio > TELLING),
    evidenceAgainst: all.filter((a) => a.ratio < 1 / TELLING).toReversed(),
  }
}

/** The test not yet done whose outcome is expected to tell most on which of the first two causes it is. */
function nextTest(
  traits: HealthTraits,
  evidence: DiagnosticEvidence,
  { ranked, sealed }: { ranked: Ranking; sealed: boolean },
): NextTest | null {
  const [first, second] = ranked
  if (!first || !second) return null
  const share = first.probability / (first.probability + second.probability)
  const possible = (f: Feature) => fits(traits, f) && !(sealed && f === 'afterRefill')
  const tests = TESTS.filter((t) => evidence[t.feature] === undefined && possible(t.feature)).map((test): NextTest => {
    const answers = FEATURES[test.feature] as readonly Answer[]
    const spread = (cause: Cause) => normalisedChances(answers.map((a) => chance(cause, test.feature, a)))
    const [p, q] = [spread(first.cause), spread(second.cause)]
    const bits = answers.reduce((sum, _, i) => {
      const [a, b] = [share * (p[i] as number), (1 - share) * (q[i] as number)]
      return sum + (a * Math.log2(a / share / (a + b)) + b * Math.log2(b / (1 - share) / (a + b)))
    }, 0)
    const outcomes = answers.map((answer, i) => ({
      answer,
      favours: CAUSE_WORDS[(p[i] as number) >= (q[i] as number) ? first.cause : second.cause].name,
    }))
    return { ...test, bits, outcomes }
  })
  const best = tests.toSorted((a, b) => b.bits - a.bits || a.minutes - b.minutes)[0]
  return best && best.bits >= LEAST_BITS ? best : null
}

function normalisedChances(chances: readonly number[]): number[] {
  const total = chances.reduce((a, b) => a + b, 0)
  return chances.map((c) => c / total)
}

/** Not every test can be done on every kind. */
function fits(traits: HealthTraits, feature: Feature): boolean {
  if (feature === 'airZero') return traits.cell
  if (feature === 'afterRefill' || feature === 'afterSoak' || feature === 'hysteresis' || feature === 'stirring') {
    return traits.referenceElectrode
  }
  return true
}
