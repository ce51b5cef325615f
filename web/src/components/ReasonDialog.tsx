import { type FormEvent, useEffect, useRef, useState } from 'react'

interface ReasonDialogProps {
  title: string
  explain: string
  /** Ready-made reasons, one tap each. */
  usual: readonly string[]
  confirm: string
  /** Another way that needs no reason. */
  other?: { label: string; explain: string; onPress: () => void } | undefined
  onConfirm: (reason: string) => void
  onClose: () => void
}

/** Asks why. Wet hands tap a usual reason; a keyboard types another. */
export function ReasonDialog({ title, explain, usual, confirm, other, onConfirm, onClose }: ReasonDialogProps) {
  const dialog = useRef<HTMLDialogElement>(null)
  const [reason, setReason] = useState('')
  const [asked, setAsked] = useState(false)
  useEffect(() => dialog.current?.showModal(), [])
  const tooShort = reason.trim().length < 3
  const submit = (event: FormEvent) => {
    event.preventDefault()
    setAsked(true)
    if (!tooShort) onConfirm(reason.trim())
  }
  return (
    <dialog ref={dialog} className="modal" onClose={onClose} aria-labelledby="reason-title">
      <form className="modal-box max-w-lg border border-base-300 bg-base-100 p-6" onSubmit={submit} noValidate>
        <h2 id="reason-title" className="text-xl">
          {title}
        </h2>
        <p className="mt-1 soft">{explain}</p>
        <div className="mt-4 flex flex-wrap gap-3">
          {usual.map((u) => (
            <button
              key={u}
              type="button"
              className={`slant ${reason === u ? 'slant-strong' : ''}`}
              onClick={() => setReason(u)}
            >
              {u}
            </button>
          ))}
        </div>
        <label className="mt-5 block">
          <span className="font-bold">Reason</span>
          <input
            className="input mt-1 min-h-11 w-full border-[color:var(--line)]"
            value={reason}
            maxLength={500}
            aria-invalid={asked && tooShort}
            aria-describedby="reason-problem"
            onChange={(e) => setReason(e.target.value)}
          />
        </label>
        <p id="reason-problem" role="alert" className="min-h-6 text-error">
          {asked && tooShort ? 'Say why in a few words.' : ''}
        </p>
        <div className="mt-3 flex flex-wrap gap-4">
          <button type="submit" className="slant slant-strong">
            {confirm}
          </button>
          <button type="button" className="slant slant-plain" onClick={onClose}>
            Back
          </button>
        </div>
        {other && (
          <div className="mt-5 border-t border-base-300 pt-4">
            <p className="soft">{other.explain}</p>
            <button type="button" className="slant mt-3" onClick={other.onPress}>
              {other.label}
            </button>
          </div>
        )}
      </form>
    </dialog>
  )
}
