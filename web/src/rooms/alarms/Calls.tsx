import { useState } from 'react'
import { play } from '../../components/useChime.ts'
import { callsChosen } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'

/** How this browser calls when an alarm is raised. */
export function Calls() {
  const { sound, notification } = useAppSelector((s) => s.person.calls)
  const dispatch = useAppDispatch()
  const [problem, setProblem] = useState<string | null>(null)
  const notify = async (on: boolean) => {
    setProblem(null)
    if (on && !('Notification' in window)) {
      setProblem('This browser shows no notifications here: they need an encrypted address, or this computer itself.')
      return
    }
    if (on && (await Notification.requestPermission()) !== 'granted') {
      setProblem('The browser does not allow it. Allow notifications of this address in its settings, then try again.')
      return
    }
    dispatch(callsChosen({ notification: on }))
  }
  return (
    <section aria-label="On this device" className="mt-8 border-t border-base-300 pt-4">
      <h2 className="text-base soft">On this device, while a tab is open</h2>
      <p className="flex flex-wrap gap-x-8">
        <Choice
          label="Sound"
          on={sound}
          onChange={(on) => {
            dispatch(callsChosen({ sound: on }))
            if (on) play()
          }}
        />
        <Choice label="Browser notifications" on={notification} onChange={(on) => void notify(on)} />
      </p>
      <p role="alert" className="min-h-6 text-sm text-error">
        {problem}
      </p>
    </section>
  )
}

function Choice({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="inline-flex min-h-11 items-center gap-3">
      <input
        type="checkbox"
        className="size-6 accent-[color:var(--color-accent)]"
        checked={on}
        onChange={(e) => onChange(e.target.checked)}
      />
      {label}
    </label>
  )
}
