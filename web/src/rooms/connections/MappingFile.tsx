import { type LineView, type Mapping, UnreadableField } from '@frustum/contract'
import { useRef } from 'react'
import { toast } from 'sonner'

const FORMAT = 'frustum-mapping'
const VERSION = 1

interface MappingFileProps {
  line: LineView
  /** Of mappings, which the protocol takes. */
  family: string
  /** What is in the form. @throws UnreadableField */
  mapping: () => Mapping
  onRead: (mapping: Mapping) => void
}

/** A mapping as a file: for the next device of its kind, here or elsewhere. */
export function MappingFile({ line, family, mapping, onRead }: MappingFileProps) {
  const chooser = useRef<HTMLInputElement>(null)
  const save = () => {
    try {
      const file = {
        format: FORMAT,
        version: VERSION,
        name: line.device.name,
        kind: line.kind,
        protocol: family,
        mapping: mapping(),
      }
      const url = URL.createObjectURL(new Blob([JSON.stringify(file, null, 2)], { type: 'application/json' }))
      const link = document.createElement('a')
      link.href = url
      link.download = `mapping-${line.code}.json`
      link.click()
      URL.revokeObjectURL(url)
    } catch (problem) {
      if (!(problem instanceof UnreadableField)) throw problem
      toast.error(problem.message, { description: 'Correct it and try again.' })
    }
  }
  const read = async (file: File) => {
    try {
      const said = JSON.parse(await file.text()) as {
        format?: unknown
        version?: unknown
        kind?: unknown
        protocol?: unknown
        mapping?: Mapping
      }
      if (said.format !== FORMAT || said.version !== VERSION || !said.mapping) {
        toast.error("This isn't a Frustum mapping file.", { description: 'Nothing was changed.' })
        return
      }
      if (said.kind !== line.kind) {
        toast.error(`This mapping is for another kind of sensor (${String(said.kind)}).`, {
          description: 'Nothing was changed.',
        })
        return
      }
      if (said.protocol !== family) {
        toast.error('This mapping is for another protocol.', {
          description: 'Choose its protocol first. Nothing was changed.',
        })
        return
      }
      onRead(said.mapping)
    } catch {
      toast.error("Couldn't read the file.", { description: 'Nothing was changed.' })
    }
  }
  const fitting = line.profiles.filter((p) => p.family === family)
  return (
    <>
      {fitting.length > 0 && (
        <label className="flex items-center gap-2">
          <span>Profile</span>
          <select
            className="min-h-11 border border-[color:var(--line)] bg-base-100 px-3"
            value=""
            onChange={(e) => {
              const chosen = fitting[Number(e.target.value)]
              if (chosen) onRead(chosen.mapping)
            }}
          >
            <option value="">Choose</option>
            {fitting.map((p, i) => (
              <option key={p.id ?? p.name} value={i}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => chooser.current?.click()}>
        Import mapping
      </button>
      <button type="button" className="min-h-11 underline underline-offset-4" onClick={save}>
        Export mapping
      </button>
      <input
        ref={chooser}
        type="file"
        accept="application/json,.json"
        className="hidden"
        aria-label="Mapping file"
        onChange={(e) => {
          const [file] = e.target.files ?? []
          e.target.value = ''
          if (file) void read(file)
        }}
      />
    </>
  )
}
