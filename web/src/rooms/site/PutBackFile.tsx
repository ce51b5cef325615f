import type { MeView, RestoringView } from '@frustum/contract'
import { ENDPOINTS } from '@frustum/contract/endpoints'
import { useEffect, useState } from 'react'
import { useMeQuery, useRestoreFileMutation } from '../../store/api.ts'
import { problemOf } from '../../store/request.ts'
import { Field } from '../bench/Field.tsx'

/** A backup that was found good, while the server starts again with it. */
export function usePuttingBack() {
  const [restoring, began] = useState<RestoringView | null>(null)
  return { restoring, began }
}

/** Chooses a backup and sends it; one that is locked asks for its passphrase. */
export function PutBackFile({ putting }: { putting: ReturnType<typeof usePuttingBack> }) {
  const [send, { isLoading }] = useRestoreFileMutation()
  const [file, setFile] = useState<File | null>(null)
  const [passphrase, setPassphrase] = useState('')
  const [wrong, setWrong] = useState<string>()
  const locked = file?.name.endsWith('.aes') ?? false
  const go = async () => {
    if (!file) return
    const { data, error } = await send({ file, passphrase })
    if (data) {
      putting.began(data)
      return
    }
    const { message, hint, fields } = problemOf(error)
    setWrong(fields?.passphrase ?? [message, hint].filter(Boolean).join(' '))
  }
  return (
    <div className="space-y-3">
      <label className="block">
        <span className="block pb-1 font-bold">Backup file</span>
        <input
          type="file"
          accept=".gz,.aes"
          className="block min-h-12 w-full max-w-xl border border-[color:var(--line)] bg-base-100 p-2"
          onChange={(e) => {
            setWrong(undefined)
            setFile(e.target.files?.[0] ?? null)
          }}
        />
      </label>
      {(locked || wrong !== undefined) && (
        <Field
          label="Passphrase"
          unit=""
          wide
          type="password"
          error={wrong}
          value={passphrase}
          onChange={(e) => setPassphrase(e.target.value)}
        />
      )}
      <button type="button" className="slant" disabled={!file || isLoading} onClick={() => void go()}>
        {isLoading ? 'Looking at it ...' : 'Put it back'}
      </button>
    </div>
  )
}

const ASK_EVERY_MS = 1000

/** Until the server answers again: then all of the page is of the restored site. */
export function Restoring({ of }: { of: RestoringView }) {
  const run = useMeQuery().data?.run
  useEffect(() => {
    const timer = setInterval(async () => {
      const me = await fetch(ENDPOINTS.me.path)
        .then((answer) => answer.json() as Promise<MeView>)
        .catch(() => null)
      if (me?.run && me.run !== run) window.location.assign('/')
    }, ASK_EVERY_MS)
    return () => clearInterval(timer)
  }, [run])
  return (
    <div role="status" className="mx-auto w-full max-w-3xl space-y-3 px-5 py-8">
      <h1 className="text-2xl">{of.site} is put back</h1>
      <p className="max-w-prose text-lg text-pretty">
        The backup was read and is whole. The server starts again with it; this page goes on by itself.
      </p>
    </div>
  )
}
