import { useEffect, useRef } from 'react'

const KEYS: [string, string][] = [
  ['1 2 3 4', 'Rounds, Bench, Probes, Plan (not in an open visit)'],
  ['5 6 8 9', 'Shelf, Reckoner, Ledger, Rig'],
  ['T', 'Chalk or Lamp'],
  ['?', 'These keys'],
  ['Space', 'The main button of the step'],
  ['E', 'Take the reading early, with a reason'],
  ['S', 'Skip the step, with a reason'],
  ['R', 'Repeat an earlier step'],
  ['M', 'Chime on or off'],
  ['C', 'On the Reckoner: copy the sheet as text'],
  ['L', 'On the Reckoner: copy a link to it'],
  ['Enter', 'On Rounds: open the first sensor'],
  ['N', 'On Rounds: a new trip'],
]

export function KeysDialog({ onClose }: { onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  useEffect(() => dialog.current?.showModal(), [])
  return (
    <dialog ref={dialog} className="modal" onClose={onClose} aria-labelledby="keys-title">
      <div className="modal-box max-w-md border border-base-300 bg-base-100 p-6">
        <h2 id="keys-title" className="text-xl">
          Keys
        </h2>
        <dl className="mt-4 grid grid-cols-[6rem_1fr] gap-y-3">
          {KEYS.map(([key, what]) => (
            <div key={key} className="contents">
              <dt>
                <kbd className="key">{key}</kbd>
              </dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <form method="dialog" className="mt-6">
          <button type="submit" className="slant">
            Close
          </button>
        </form>
      </div>
    </dialog>
  )
}
