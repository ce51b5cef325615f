import { type Decision, decisionWords, type Finding, type ProposedDecision } from '@frustum/core'
import { type ReactNode, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { text } from '../../components/format.ts'

const SEVERITY = { stop: 'border-error', warn: 'border-accent', note: 'border-base-300' } as const

export function Findings({ findings }: { findings: readonly Finding[] }) {
  if (findings.length === 0) return <p className="soft">Nothing about these readings is out of the ordinary.</p>
  return (
    <ul className="space-y-2">
      {findings.map((f) => (
        <li key={f.code + text(f.sentence)} className={`border-l-4 ${SEVERITY[f.severity]} py-1 pl-3`}>
          <span className="font-bold">{text(f.sentence)}</span> {text(f.advice)}
        </li>
      ))}
    </ul>
  )
}

interface DecisionPanelProps {
  step: string
  proposal: ProposedDecision
  /** What may be decided here, the proposal among them. */
  choices: readonly Decision[]
  names?: Partial<Record<Decision, string>> | undefined
  busy: boolean
  /** What follows in one press, once the proposal is taken. */
  onward?: { label: string; onPress: () => void } | undefined
  onDecide: (decision: Decision, note: string) => void
  children?: ReactNode
}

/** The proposal with its reason; the operator decides, and says why when it is otherwise. */
export function DecisionPanel({
  step,
  proposal,
  choices,
  names,
  busy,
  onward,
  onDecide,
  children,
}: DecisionPanelProps) {
  const name = (decision: Decision) => names?.[decision] ?? decisionWords(decision, step === 'verdict')
  const [chosen, setChosen] = useState<Decision>(proposal.decision)
  const [note, setNote] = useState('')
  const [asked, setAsked] = useState(false)
  const otherwise = chosen !== proposal.decision
  const missing = otherwise && note.trim().length < 3
  const decide = () => {
    setAsked(true)
    if (!missing && !busy) onDecide(chosen, note.trim())
  }
  useHotkeys('space', decide, { preventDefault: true })
  return (
    <div className="space-y-4">
      <div>
        <p className="text-3xl font-bold" data-testid="proposal">
          {name(proposal.decision)}
        </p>
        <p className="max-w-prose pt-1 text-lg text-pretty">{text(proposal.reason)}</p>
      </div>
      {children}
      <fieldset>
        <legend className="pb-2 soft">You decide</legend>
        <div className="flex flex-wrap gap-3">
          {choices.map((c) => (
            <button
              key={c}
              type="button"
              aria-pressed={c === chosen}
              className={`slant ${c === chosen ? '' : 'slant-plain'}`}
              onClick={() => setChosen(c)}
            >
              {name(c)}
            </button>
          ))}
        </div>
      </fieldset>
      {otherwise && (
        <label className="block max-w-md">
          <span className="font-bold">Why otherwise than proposed?</span>
          <input
            className="mt-1 h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
            value={note}
            maxLength={500}
            aria-invalid={asked && missing}
            onChange={(e) => setNote(e.target.value)}
          />
          <span role="alert" className="block min-h-6 text-sm text-error">
            {asked && missing ? 'Say why in a few words.' : ''}
          </span>
        </label>
      )}
      <div className="flex flex-wrap gap-4 max-sm:sticky max-sm:bottom-12 max-sm:z-10 max-sm:bg-base-100 max-sm:py-2">
        {onward && (
          <button
            type="button"
            className="slant min-h-14 px-8 text-xl max-sm:w-full"
            disabled={busy}
            onClick={onward.onPress}
          >
            {onward.label}
          </button>
        )}
        <button
          type="button"
          className="slant slant-strong min-h-14 px-8 text-xl max-sm:w-full"
          disabled={busy}
          onClick={decide}
        >
          {name(chosen)} <kbd className="key">Space</kbd>
        </button>
      </div>
    </div>
  )
}
