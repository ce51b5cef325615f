import type { ResultView, VisitView } from '@frustum/contract'
import { fixed, mv, percent, signed } from '../../parts/format.ts'
import { DecisionPanel, Findings } from './DecisionPanel.tsx'

interface ResultPanelProps {
  visit: VisitView
  result: ResultView
  busy: boolean
  onDecide: (decision: string, note: string) => void
}

export function ResultPanel({ visit, result, busy, onDecide }: ResultPanelProps) {
  const { calibration, previous, findings, proposal } = result
  const unusable = !calibration || findings.some((f) => f.severity === 'stop')
  const choices = unusable
    ? ['repeat', 'clean-and-recheck', 'replace']
    : ['leave-alone', 'adjust', 'clean-and-recheck', 'replace', 'repeat']
  return (
    <div className="space-y-5">
      {calibration && !unusable && (
        <dl className="grid grid-cols-2 gap-x-8 gap-y-4 border-y border-base-300 py-4 md:grid-cols-4">
          <Figure label="Slope" value={`${percent(calibration.slopeEfficiency)} %`}>
            ± {percent(calibration.slopeEfficiencyUncertainty)}
            {previous && `, was ${percent(previous.slopeEfficiency)}`}
          </Figure>
          <Figure label="Zero at pH 7" value={`${mv(calibration.zero)} mV`}>
            ± {mv(calibration.zeroUncertainty)}
            {previous && `, was ${mv(previous.zero)}`}
          </Figure>
          <Figure
            label="As found, at the process"
            value={result.asFoundError === null ? '–' : `${signed(result.asFoundError, 2)} pH`}
          >
            {result.asFoundError === null ? 'not measured' : `limit ± ${fixed(visit.tolerance, 2)}`}
          </Figure>
          <Figure
            label="Now, before any change"
            value={result.errorNow === null ? '–' : `${signed(result.errorNow, 2)} pH`}
          >
            ± {fixed(result.uncertainty ?? 0, 2)}
            {result.fouling !== null && `; cleaning moved it ${signed(-result.fouling, 1)} mV`}
          </Figure>
        </dl>
      )}
      <Findings findings={findings} />
      <DecisionPanel key={proposal.decision} proposal={proposal} choices={choices} busy={busy} onDecide={onDecide} />
    </div>
  )
}

function Figure({ label, value, children }: { label: string; value: string; children: React.ReactNode }) {
  return (
    <div>
      <dt className="text-sm soft">{label}</dt>
      <dd>
        <span className="block text-2xl font-bold whitespace-nowrap">{value}</span>
        <span className="text-sm soft">{children}</span>
      </dd>
    </div>
  )
}
