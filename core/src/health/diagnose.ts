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
import { LIKELIHOODS, type Likelihood, SOUND, VARIANTS } from './likelihoods.ts'

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
  /** Expected information on which cause it is, in bits. */
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

/**
 * How much an answer counts. Answers are not independent given a cause, which makes them count less than in full; but the
 * chances of the table are careful ones, which makes them count more. Set on simulated histories, so that what is stated
 * is a little less than what is right in calm places and just right in restless ones.
 */
const WEIGHT = 1.3
/** No answer is impossible. */
const LEAST_CHANCE = 0.004
/** An argument worth naming. */
const TELLING = 1.6
/** Below this the first cause is not named as one. */
const ENOUGH = 0.42
/** A test worth naming, bits. */
const LEAST_BITS = 0.08

/**
 * Ranked causes of what is seen on a sensor: Bayes' rule with the table of likelihoods, answers taken for
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
  const known = knownOf(evidence)
  const possible = CAUSES.filter((c) => (traits.causes[c] ?? 0) > 0)
  const views = possible.map((cause) => viewOf(cause, known))
  const logs = views.map(({ cause, log }) => Math.log(traits.causes[cause] as number) + log)
  const probabilities = normalised(logs)
  const ranked = views
    .map((view, i) => ({ ...view, probability: probabilities[i] as number }))
    .sort((a, b) => b.probability - a.probability)
  return {
    ranked: ranked.map((view) => ({
      cause: view.cause,
      probability: view.probability,
      name: CAUSE_WORDS[view.cause].name,
      remedy: (sealed ? CAUSE_WORDS[view.cause].sealedRemedy : undefined) ?? CAUSE_WORDS[view.cause].remedy,
      ...argumentsOf(traits, view, known, ranked),
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

/** An answer, and how well each answer of the feature fits what was seen. */
interface Known {
  feature: Feature
  answer: Answer
  fit: readonly number[]
}

function knownOf({ fits, ...answers }: DiagnosticEvidence): Known[] {
  return (Object.entries(answers) as [Feature, Answer | undefined][]).flatMap(([feature, answer]) =>
    answer === undefined ? [] : [{ feature, answer, fit: fits?.[feature] ?? only(feature, answer) }],
  )
}

function only(feature: Feature, answer: Answer): number[] {
  const at = indexOf(feature, answer)
  return FEATURES[feature].map((_, i) => (i === at ? 1 : 0))
}

type Row = Partial<Record<Feature, Likelihood>>
type Seen = Pick<Known, 'feature' | 'fit'>

/** A cause and the ways in which it can show, weighed by what is known. */
interface View {
  cause: Cause
  /** Logarithm of the chance of what is known. */
  log: number
  ways: { row: Row; weight: number }[]
}
type Ranking = readonly (View & { probability: number })[]

function viewOf(cause: Cause, known: readonly Known[]): View {
  const rows = (VARIANTS[cause] ?? [{ share: 1, of: {} }]).map(({ share, of }) => {
    const row: Row = { ...LIKELIHOODS[cause], ...of }
    return { row, log: known.reduce((sum, k) => sum + WEIGHT * Math.log(chanceOf(row, k)), Math.log(share)) }
  })
  const top = Math.max(...rows.map((r) => r.log))
  const weights = normalised(rows.map((r) => r.log))
  return {
    cause,
    log: top + Math.log(rows.reduce((sum, r) => sum + Math.exp(r.log - top), 0)),
    ways: rows.map(({ row }, i) => ({ row, weight: weights[i] as number })),
  }
}

/** Chance of what was seen, relative to that of the answer which fits it best. */
function chanceOf(row: Row, { feature, fit }: Seen): number {
  const chances = row[feature]?.chances ?? SOUND[feature]
  const sum = fit.reduce((total, f, i) => total + f * (chances[i] as number), 0)
  return Math.max(sum, LEAST_CHANCE)
}

const chance = ({ ways }: View, seen: Seen): number =>
  ways.reduce((sum, { row, weight }) => sum + weight * chanceOf(row, seen), 0)

/** By how much believing in a cause changes once an answer is known. */
const change = ({ ways }: View, seen: Seen): number =>
  ways.reduce((sum, { row, weight }) => sum + weight * chanceOf(row, seen) ** WEIGHT, 0)

/** What the likeliest way of a cause does to a feature. */
const likeliest = ({ ways }: View): Row => ways.toSorted((a, b) => b.weight - a.weight)[0]?.row ?? {}

function normalised(logs: readonly number[]): number[] {
  const top = Math.max(...logs)
  const weights = logs.map((l) => Math.exp(l - top))
  const total = weights.reduce((a, b) => a + b, 0)
  return weights.map((w) => w / total)
}

/** Cells have no slope; what is followed in its place is what one over the cell factor does. */
const featureWords = (traits: HealthTraits, feature: Feature): string =>
  traits.cell && feature === 'slopeCourse' ? 'Course of the cell' : FEATURE_WORDS[feature]

function argumentsOf(traits: HealthTraits, view: View, known: readonly Known[], ranking: Ranking) {
  const others = ranking.filter((r) => r.cause !== view.cause)
  const row = likeliest(view)
  const total = others.reduce((sum, r) => sum + r.probability, 0) || 1
  const all = known
    .map((k): Argument => {
      const { feature } = k
      const otherwise = others.reduce((sum, r) => sum + (r.probability / total) * chance(r, k), 0)
      const ratio = chance(view, k) / otherwise
      return {
        feature,
        text: `${featureWords(traits, feature)}: ${ratio > 1 ? answerFor(row, k) : k.answer}`,
        because: row[feature]?.because ?? 'it leaves this as it is',
        ratio,
      }
    })
    .sort((a, b) => b.ratio - a.ratio)
  return {
    evidenceFor: all.filter((a) => a.ratio > TELLING),
    evidenceAgainst: all.filter((a) => a.ratio < 1 / TELLING).toReversed(),
  }
}

/** The answer by which a figure between two words speaks for a cause. */
function answerFor(row: Row, { feature, answer, fit }: Known): string {
  const chances = row[feature]?.chances ?? SOUND[feature]
  const shares = fit.map((f, i) => f * (chances[i] as number))
  const telling = (FEATURES[feature] as readonly Answer[])[shares.indexOf(Math.max(...shares))] as Answer
  return telling === answer ? answer : `perhaps ${telling}`
}

/** The test not yet done whose outcome is expected to tell most on which cause it is. */
function nextTest(
  traits: HealthTraits,
  evidence: DiagnosticEvidence,
  { ranked, sealed }: { ranked: Ranking; sealed: boolean },
): NextTest | null {
  const possible = (f: Feature) => fits(traits, f) && !(sealed && f === 'afterRefill')
  const tests = TESTS.filter((t) => evidence[t.feature] === undefined && possible(t.feature)).map((test): NextTest => {
    const answers: readonly Answer[] = test.answers ?? FEATURES[test.feature]
    const seen = answers.map((a): Seen => ({ feature: test.feature, fit: only(test.feature, a) }))
    const spreads = ranked.map((view) => normalised(seen.map((s) => Math.log(chance(view, s)))))
    const bits = answers.reduce((sum, _, i) => {
      const chances = spreads.map((s) => s[i] as number)
      return sum + informationOf(ranked, chances)
    }, 0)
    return {
      ...test,
      bits,
      outcomes: answers.map((answer, i) => ({ answer, favours: favoured(ranked, seen[i] as Seen) })),
    }
  })
  const best = tests.toSorted((a, b) => b.bits - a.bits || a.minutes - b.minutes)[0]
  return best && best.bits >= LEAST_BITS ? best : null
}

/**
 * What an outcome adds to the information of its test, bits (T. M. Cover and J. A. Thomas, Elements of Information Theory,
 * 2nd ed., ch. 2.4).
 * @param chances of the outcome under each cause, above 0
 */
function informationOf(ranked: Ranking, chances: readonly number[]): number {
  const whole = ranked.reduce((sum, { probability }, i) => sum + probability * (chances[i] as number), 0)
  return ranked.reduce(
    (sum, { probability }, i) => sum + probability * (chances[i] as number) * Math.log2((chances[i] as number) / whole),
    0,
  )
}

/** The cause whose probability rises most with an outcome. */
function favoured(ranked: Ranking, outcome: Seen): string {
  const after = normalised(ranked.map((view) => Math.log(view.probability * change(view, outcome))))
  const gains = ranked.map(({ probability }, i) => (after[i] as number) - probability)
  return CAUSE_WORDS[ranked[gains.indexOf(Math.max(...gains))]?.cause ?? 'nothing'].name
}

/** Not every test can be done on every kind. */
function fits(traits: HealthTraits, feature: Feature): boolean {
  if (feature === 'airZero') return traits.cell
  if (feature === 'afterRefill' || feature === 'afterSoak' || feature === 'hysteresis' || feature === 'stirring') {
    return traits.referenceElectrode
  }
  return true
}
