import { INGEST_PATH, type LineView } from '@frustum/contract'
import { useState } from 'react'
import { toast } from 'sonner'
import { ago } from '../../components/format.ts'
import { useSetTokenMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

const TOKEN_BYTES = 24

/** Drawn here and sent to the server once, which keeps no more than its hash. */
function drawnToken(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(TOKEN_BYTES))
  return btoa(String.fromCharCode(...bytes))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
}

/** The ingest address of a device. */
export function SendsItself({ line }: { line: LineView }) {
  const { operator } = useAppSelector(actorOf)
  const [make, { isLoading }] = useSetTokenMutation()
  const [address, setAddress] = useState<string | null>(null)
  const { token, device } = line
  const renew = async () => {
    const drawn = drawnToken()
    const answer = await make({ id: String(line.id), operator, token: drawn })
    if (answer.data) setAddress(`${location.origin}${INGEST_PATH}${drawn}`)
    else toast.error(problemOf(answer.error).message)
  }
  return (
    <div className="max-w-3xl pb-4">
      <p className="max-w-prose text-pretty">
        {device.name} posts its readings to an address of its own: JSON, SenML, CSV or line protocol, at most 1 MB at a
        time. Late and repeated readings are sorted out.
      </p>
      {address ? (
        <div className="my-3 border-l-4 border-accent bg-base-200 p-4">
          <p className="font-bold">Copy it now. It isn't shown again.</p>
          <p className="py-2 font-mono break-all">{address}</p>
          <button
            type="button"
            className="slant"
            onClick={() =>
              void navigator.clipboard?.writeText(address).then(
                () => toast.success('Copied.'),
                () => toast.error("This browser doesn't allow it. Select the address and copy it."),
              )
            }
          >
            Copy
          </button>
        </div>
      ) : (
        <p className="flex flex-wrap items-center gap-4 py-3">
          <button
            type="button"
            className={token ? 'slant' : 'slant slant-strong'}
            disabled={isLoading}
            onClick={() => void renew()}
          >
            {token ? 'Create new address' : 'Create address'}
          </button>
          <span className="soft">
            {token
              ? `Created ${ago(token.madeAt)} by ${token.madeBy}, ${token.usedAt ? `used ${ago(token.usedAt)}` : 'not used yet'}. A new one replaces it.`
              : 'Keep it secret. Anyone who has it can post readings as this device.'}
          </span>
        </p>
      )}
    </div>
  )
}
