import type { VisitView } from '@frustum/contract'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { ReasonDialog } from '../../parts/ReasonDialog.tsx'
import { stepText } from './stepTexts.ts'

/** The one strong button of a step; Space presses it too. */
export function MainButton({ label, disabled, onPress }: { label: string; disabled: boolean; onPress: () => void }) {
  useHotkeys('space', onPress, { preventDefault: true, enabled: !disabled })
  return (
    <button
      type="button"
      className="slant slant-strong min-h-14 px-9 text-xl max-sm:w-[94%]"
      disabled={disabled}
      onClick={onPress}
      data-testid="main"
    >
      {label} <kbd className="key">Space</kbd>
    </button>
  )
}

/** The way past a step, with a reason. Nothing where a step cannot be skipped. */
export function SkipOnly({ visit, onSkip }: { visit: VisitView; onSkip: (reason: string) => void }) {
  const [asking, setAsking] = useState(false)
  const step = visit.current
  const usual = step ? stepText(visit, step).usualSkips : []
  useHotkeys('s', () => setAsking(true), { enabled: usual.length > 0 })
  if (!step || usual.length === 0) return null
  return (
    <>
      <button type="button" className="slant slant-plain" onClick={() => setAsking(true)}>
        Skip <kbd className="key">S</kbd>
      </button>
      {asking && (
        <ReasonDialog
          title={`Skip "${stepText(visit, step).short}"?`}
          explain="The record keeps that it was skipped, and why."
          usual={usual}
          confirm="Skip it"
          onClose={() => setAsking(false)}
          onConfirm={(reason) => {
            setAsking(false)
            onSkip(reason)
          }}
        />
      )}
    </>
  )
}
