import {
  CHANNELS,
  channelOf,
  isModbus,
  isRegister,
  type LineView,
  type Mapping,
  type Protocol,
} from '@frustum/contract'
import { useRef } from 'react'
import { toast } from 'sonner'
import { NotANumber } from './draft.ts'

const FORMAT = 'frustum-mapping'
const VERSION = 1

interface MappingFileProps {
  line: LineView
  protocol: Protocol
  /** What stands in the form. @throws NotANumber */
  mapping: () => Mapping
  onRead: (mapping: Mapping) => void
}

/** A mapping as a file: for the next device of its kind, here or elsewhere. */
export function MappingFile({ line, protocol, mapping, onRead }: MappingFileProps) {
  const chooser = useRef<HTMLInputElement>(null)
  const save = () => {
    try {
      const file = {
        format: FORMAT,
        version: VERSION,
        name: line.device.name,
        kind: line.kind,
        protocol: isModbus(protocol) ? 'modbus' : 'messages',
        mapping: mapping(),
      }
      const url = URL.createObjectURL(new Blob([JSON.stringify(file, null, 2)], { type: 'application/json' }))
      const link = document.createElement('a')
      link.href = url
      link.download = `mapping-${line.code}.json`
      link.click()
      URL.revokeObjectURL(url)
    } catch (problem) {
      if (!(problem instanceof NotANumber)) throw problem
      toast.error(problem.message, { description: 'Put it right first.' })
    }
  }
  const read = async (file: File) => {
    try {
      const said = JSON.parse(await file.text()) as {
        format?: unknown
        version?: unknown
        kind?: unknown
        mapping?: Mapping
      }
      if (said.format !== FORMAT || said.version !== VERSION || !said.mapping) {
        toast.error('That is no mapping of Frustum.', { description: 'Nothing was changed.' })
        return
      }
      if (said.kind !== line.kind) {
        toast.error(`That mapping is for another kind of sensor (${String(said.kind)}).`, {
          description: 'Nothing was changed.',
        })
        return
      }
      if (!suits(said.mapping, protocol)) {
        toast.error('That mapping is for a device that is reached in another way.', {
          description: 'Choose how it is reached first. Nothing was changed.',
        })
        return
      }
      onRead(said.mapping)
    } catch {
      toast.error('That file cannot be read.', { description: 'Nothing was changed.' })
    }
  }
  const fitting = line.profiles.filter((p) => suits(p.mapping, protocol))
  return (
    <>
      {fitting.length > 0 && (
        <label className="flex items-center gap-2">
          <span>Begin with</span>
          <select
            className="min-h-11 border border-[color:var(--line)] bg-base-100 px-3"
            value=""
            onChange={(e) => {
              const chosen = fitting[Number(e.target.value)]
              if (chosen) onRead(chosen.mapping)
            }}
          >
            <option value="">Choose a profile</option>
            {fitting.map((p, i) => (
              <option key={p.id ?? p.name} value={i}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <button type="button" className="min-h-11 underline underline-offset-4" onClick={() => chooser.current?.click()}>
        From a file
      </button>
      <button type="button" className="min-h-11 underline underline-offset-4" onClick={save}>
        Save as a file
      </button>
      <input
        ref={chooser}
        type="file"
        accept="application/json,.json"
        className="hidden"
        aria-label="File of a mapping"
        onChange={(e) => {
          const [file] = e.target.files ?? []
          e.target.value = ''
          if (file) void read(file)
        }}
      />
    </>
  )
}

/** Whether a mapping is one of registers where registers are read, and one of messages where those come. */
const suits = (mapping: Mapping, protocol: Protocol): boolean =>
  CHANNELS.every((name) => {
    const channel = channelOf(mapping, name)
    return !channel || isRegister(channel.at) === isModbus(protocol)
  })
