import type { VisitView } from '@frustum/contract'
import type { Decision, ResultView } from '@frustum/core'
import { ScrollText } from 'lucide-react'
import { useNavigate } from 'react-router'
import { text } from '../../components/format.ts'
import { CLEAN } from './ConfirmStep.tsx'
import { DecisionPanel, Findings } from './DecisionPanel.tsx'

interface ResultPanelProps {
  visit: VisitView
  result: ResultView
  busy: boolean
  /** Resolves to whether it is on record. */
  onDecide: (decision: Decision, note: string) => Promise<boolean>
  onSkip: (step: string, reason: string) => void
}

/** What the readings come to, and what to do about it. */
export function ResultPanel({ visit, result, busy, onDecide, onSkip }: ResultPanelProps) {
  const { figures, findings, proposal, choices, names, calibrate } = result
  const navigate = useNavigate()
  const onward = calibrate
    ? {
        label: calibrate === visit.position ? 'Calibrate this one' : `Calibrate ${calibrate}`,
        onPress: () => void onDecide(proposal.decision, '').then((ok) => ok && navigate(`/bench/start/${calibrate}`)),
      }
    : visit.current === 'verdict' && proposal.decision === 'adjust'
      ? {
          label: 'Calibrate without cleaning',
          onPress: () => void onDecide('adjust', '').then((ok) => ok && onSkip('clean', CLEAN)),
        }
      : undefined
  return (
    <div className="space-y-5">
      {figures.length > 0 && (
        <dl className="grid grid-cols-[repeat(auto-fit,minmax(9.5rem,1fr))] gap-x-6 gap-y-4 border-y border-base-300 py-4">
          {figures.map((f) => (
            <div key={f.label}>
              <dt className="text-sm soft">{f.label}</dt>
              <dd>
                <span className="block text-2xl font-bold">{text(f.value)}</span>
                <span className="text-sm soft">{text(f.note)}</span>
              </dd>
            </div>
          ))}
        </dl>
      )}
      <Findings findings={findings} />
      {visit.authorityRule && <AuthorityRule rule={visit.authorityRule} />}
      <DecisionPanel
        key={visit.current + proposal.decision}
        step={visit.current ?? ''}
        proposal={proposal}
        choices={choices}
        names={names}
        busy={busy}
        onward={onward}
        onDecide={(decision, note) => void onDecide(decision, note)}
      />
    </div>
  )
}

/** The permit's or the authority's rule stands above whatever is proposed here. */
export function AuthorityRule({ rule }: { rule: string }) {
  return (
    <p className="flex gap-3 border-l-4 border-primary bg-secondary px-4 py-3 text-secondary-content">
      <ScrollText className="mt-0.5 size-5 shrink-0" aria-hidden="true" />
      <span>
        <strong>This rule comes before any proposal.</strong> {rule}
      </span>
    </p>
  )
}
