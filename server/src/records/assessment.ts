import { type Assessment, type Quantity, type ResultView, render, type Sentence, say } from '@frustum/core'
import type { StoredAssessment, StoredSnapshot } from '../database/recordColumns.ts'
import { PROGRAM_VERSION } from '../version.ts'

const textOf = (value: Sentence | Quantity) => render(say`${value}`)

/** What was said when it was decided: the numbers, the codes, and the texts as they were shown. */
export function storedAssessment(
  step: string,
  assessment: Assessment | ResultView,
  known: StoredSnapshot['known'],
): StoredAssessment {
  const { figures, findings, proposal } = assessment
  return {
    version: 1,
    known,
    program: PROGRAM_VERSION,
    step,
    assessment: assessment as Assessment,
    text: {
      figures: figures.map((f) => ({ label: f.label, value: textOf(f.value), note: textOf(f.note) })),
      findings: findings.map((f) => ({ sentence: render(f.sentence), advice: render(f.advice) })),
      reason: render(proposal.reason),
    },
  }
}
