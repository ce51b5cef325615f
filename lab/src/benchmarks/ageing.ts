import { spawnSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import {
  CAUSE_WORDS,
  CAUSES,
  DAY_MS,
  daysWithinTolerance,
  diagnose,
  evidenceOf,
  forecastSite,
  median,
  randomStream,
  theilSen,
} from '@frustum/core'
import {
  addScores,
  FLEET_DOZEN,
  FLEET_GROUPS,
  type FleetGroup,
  type PolicyScore,
  playPolicy,
  simulateCourse,
  simulateFaults,
} from '@frustum/lab/simulation'
import { TheilSenRegression } from 'ml-regression-theil-sen'
import { phConfusion } from './otherDiagnosis.ts'

export interface BenchRow {
  what: string
  measured: string
  wanted: string
  ok: boolean | null
}

const percent = (share: number, digits = 1) => `${(100 * share).toFixed(digits)} %`

/** The policies on the same 432 simulated sensors over three years; the drift policy by group too. */
export function policyRows(): BenchRow[] {
  const random = randomStream(20)
  const sites = Array.from({ length: 12 }, () =>
    Array.from({ length: 36 }, (_, i) =>
      simulateCourse(FLEET_DOZEN[i % FLEET_DOZEN.length] as FleetGroup, 1096, random.fork()),
    ),
  )
  const play = (policy: 'monthly' | 'staircase' | 'drift') =>
    sites.flatMap((site) =>
      playPolicy(policy, site, random.fork()).map((score, i) => ({ score, group: site[i]?.group })),
    )
  const [monthly, staircase, drift] = [play('monthly'), play('staircase'), play('drift')]
  const total = (of: typeof drift) => addScores(of.map((o) => o.score))
  const text = (s: PolicyScore) =>
    `${((365 * s.visits) / s.sensorDays).toFixed(2)} visits, ${percent(s.inTolerance / s.visits)} met in tolerance, ${((365 * s.daysOut) / s.sensorDays).toFixed(1)} d out`
  const [fixed, own] = [total(monthly), total(drift)]
  const share = own.inTolerance / own.visits
  return [
    { what: 'monthly plan, a sensor-year', measured: text(fixed), wanted: '', ok: null },
    { what: 'staircase, a sensor-year', measured: text(total(staircase)), wanted: '', ok: null },
    {
      what: 'by own drift at 95 %, a sensor-year',
      measured: text(own),
      wanted: '93 to 97 % met in tolerance',
      ok: share > 0.93 && share < 0.97,
    },
    {
      what: 'by own drift against monthly',
      measured: `${percent(own.visits / fixed.visits)} of the visits, ${percent(own.daysOut / fixed.daysOut)} of the days out`,
      wanted: 'at most 60 % and 40 %',
      ok: own.visits < 0.6 * fixed.visits && own.daysOut < 0.4 * fixed.daysOut,
    },
    ...FLEET_GROUPS.map((group) => {
      const s = total(drift.filter((d) => d.group === group))
      return {
        what: `  ${group}`,
        measured: text(s),
        wanted: 'above 88 % met in tolerance',
        ok: s.inTolerance > 0.88 * s.visits,
      }
    }),
  ]
}

const BINS = [0, 0.05, 0.2, 0.4, 0.6, 0.8, 0.95, 1.0001]

/** The diagnosis on 720 simulated histories; its confusion and reliability tables go to docs/confusion.md. */
export function diagnosisRows(): BenchRow[] {
  const judged = simulateFaults(40, randomStream(7)).map(({ cause, record }) => ({
    cause,
    ranked: diagnose(record.traits, evidenceOf(record)).ranked,
  }))
  const hit = (first: number) =>
    judged.filter((j) => j.ranked.slice(0, first).some((r) => r.cause === j.cause)).length / judged.length
  const reference = ['electrolyte-used-up', 'electrolyte-contaminated', 'junction-blocked']
  const stated = judged.flatMap((j) => j.ranked.map((r) => ({ p: r.probability, right: r.cause === j.cause })))
  const bins = BINS.slice(1).map((high, i) => {
    const low = BINS[i] as number
    const within = stated.filter((s) => s.p >= low && s.p < high)
    const mean = within.reduce((sum, s) => sum + s.p, 0) / within.length
    return {
      low,
      high: Math.min(1, high),
      count: within.length,
      mean,
      right: within.filter((s) => s.right).length / within.length,
    }
  })
  writeConfusion(judged, bins)
  return [
    {
      what: 'diagnosis, 720 histories',
      measured: `first ${percent(hit(1))}, among the first two ${percent(hit(2))}`,
      wanted: 'at least 85 % and 95 %',
      ok: hit(1) >= 0.85 && hit(2) >= 0.95,
    },
    {
      what: 'the rule "it is the reference"',
      measured: percent(judged.filter((j) => reference.includes(j.cause)).length / judged.length),
      wanted: '',
      ok: null,
    },
    ...bins.map((b) => ({
      what: `  stated ${percent(b.low, 0)} to ${percent(b.high, 0)}`,
      measured: `${b.count} times, on average ${percent(b.mean)}, right ${percent(b.right)}`,
      wanted: '',
      ok: null,
    })),
  ]
}

type Bin = { low: number; high: number; count: number; mean: number; right: number }

function writeConfusion(judged: { cause: string; ranked: { cause: string }[] }[], bins: readonly Bin[]): void {
  const lines = CAUSES.map((cause) => {
    const own = judged.filter((j) => j.cause === cause)
    const first = own.filter((j) => j.ranked[0]?.cause === cause).length
    const second = own.filter((j) => j.ranked[1]?.cause === cause).length
    const taken = new Map<string, number>()
    for (const j of own) {
      const named = j.ranked[0]?.cause as keyof typeof CAUSE_WORDS
      if (named !== cause) taken.set(CAUSE_WORDS[named].name, (taken.get(CAUSE_WORDS[named].name) ?? 0) + 1)
    }
    const others = [...taken].sort((a, b) => b[1] - a[1]).map(([name, n]) => `${name} ${n}`)
    return `| ${CAUSE_WORDS[cause].name} | ${own.length} | ${first} | ${second} | ${others.join(', ')} |`
  })
  const text = `# How often the diagnosis is right

## Electrodes and cells, by records of visits

Written by \`npm run bench\`. ${phConfusion().join('\n')}

## All kinds, by figures

Written by \`npm run bench\` from 40 simulated histories of each cause (seed 7). The histories come from what a fault does
to reference, glass, membrane, cell or wiring; the likelihoods are in \`core/src/health/likelihoods.ts\`.

| it was | histories | named first | named second | taken for |
|---|---:|---:|---:|---|
${lines.join('\n')}

### How sure it says it is, and how often it is right

| stated | how often | on average | right |
|---|---:|---:|---:|
${bins.map((b) => `| ${percent(b.low, 0)} to ${percent(b.high, 0)} | ${b.count} | ${percent(b.mean)} | ${percent(b.right)} |`).join('\n')}
`
  const path = fileURLToPath(new URL('../../../docs/confusion.md', import.meta.url))
  writeFileSync(path, text)
  // Tables in the form that the lint wants of every document.
  spawnSync('npx', ['biome', 'format', '--write', path], { stdio: 'ignore' })
}

/** A thousand sensors of one site with thirty visits each: forecast and next date, on one core. */
export function forecastSpeed(): BenchRow {
  const random = randomStream(3)
  const histories = Array.from({ length: 1000 }, () => ({
    observations: Array.from({ length: 30 }, (_, i) => ({
      at: 30 * i * DAY_MS,
      asFound: i === 0 ? null : 0.03 * random.normal(),
      asLeft: 0,
      uncertainty: 0.02,
      adjusted: true,
    })),
  }))
  const began = performance.now()
  for (const forecast of forecastSite(histories)) daysWithinTolerance(forecast, 0.1, 0.95)
  const seconds = (performance.now() - began) / 1000
  return {
    what: 'forecast and date, 1,000 sensors of 30 visits',
    measured: `${seconds.toFixed(2)} s`,
    wanted: 'under 2 s',
    ok: seconds < 2,
  }
}

/** Against the reference library on the same points, at the largest size that it can do; beyond it by its own n squared. */
export function theilSenSpeed(): BenchRow {
  const random = randomStream(9)
  const count = 20_000
  const feasible = 4_000
  const x = Array.from({ length: count }, (_, i) => i * 1.37)
  const y = x.map((v) => 0.01 * v + 5 * random.normal())
  const took = (work: () => void) =>
    median(
      Array.from({ length: 3 }, () => {
        const began = performance.now()
        work()
        return performance.now() - began
      }),
    )
  const ours = took(() => theilSen(x, y))
  const [fewX, fewY] = [x.slice(0, feasible), y.slice(0, feasible)]
  const theirs = took(() => new TheilSenRegression(fewX, fewY)) * (count / feasible) ** 2
  return {
    what: 'Theil-Sen with interval, 20,000 points',
    measured: `${ours.toFixed(0)} ms, ${(theirs / ours).toFixed(0)} times as fast as ml-regression-theil-sen (its ${feasible.toLocaleString('en')} points x ${(count / feasible) ** 2})`,
    wanted: 'at least 50 times',
    ok: theirs > 50 * ours,
  }
}
