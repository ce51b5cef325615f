import type { StepView } from '@frustum/core'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { ReasonDialog } from '../../components/ReasonDialog.tsx'

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

interface SkipProps {
  step: Pick<StepView, 'short' | 'usualSkips'>
  disabled?: boolean
  onSkip: (reason: string) => void
}

/** The way past a step, with a reason. Nothing where a step cannot be skipped. */
export function Skip({ step, disabled = false, onSkip }: SkipProps) {
  const [asking, setAsking] = useState(false)
  const { usualSkips } = step
  useHotkeys('s', () => setAsking(true), { enabled: usualSkips.length > 0 && !disabled })
  if (usualSkips.length === 0) return null
  return (
    <>
      <button type="button" className="slant slant-plain" disabled={disabled} onClick={() => setAsking(true)}>
        Skip step <kbd className="key">S</kbd>
      </button>
      {asking && (
        <ReasonDialog
          title={`Skip "${step.short}"?`}
          explain="The record keeps that it was skipped, and why."
          usual={usualSkips}
          confirm="Skip step"
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
