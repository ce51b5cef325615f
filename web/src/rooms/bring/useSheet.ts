import { useRef, useState } from 'react'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

interface Sent<Options> {
  file: Blob
  name: string
  operator: string
  options: Options
}

/** How far an import has come on this page: its file, how it is read, and what becomes of it. */
export interface Sheet<Options, View> {
  file: File | null
  options: Options
  view: View | null
  problem: { message: string; more: string } | null
  choose(file: File): void
  /** Reads it otherwise; nothing is written. */
  change(part: Partial<Options>): void
  /** Says how the next press is meant, without reading the file again. */
  set(part: Partial<Options>): void
  take(): void
}

/** @param begin how a file is read at first @param send reads it, or takes it in */
export function useSheet<Options extends { take: boolean; columns: unknown }, View extends { columns: unknown }>(
  begin: Options,
  send: (sent: Sent<Options>) => PromiseLike<{ data?: View; error?: unknown }>,
): Sheet<Options, View> {
  const [file, setFile] = useState<File | null>(null)
  const [options, setOptions] = useState(begin)
  const [view, setView] = useState<View | null>(null)
  const [problem, setProblem] = useState<Sheet<Options, View>['problem']>(null)
  const { operator } = useAppSelector(actorOf)
  const newest = useRef<Options>(begin)
  const look = async (of: File, next: Options) => {
    newest.current = next
    setOptions(next)
    setProblem(null)
    const answer = await send({ file: of, name: of.name, operator, options: next })
    // Asked otherwise meanwhile: what counts is the answer to that.
    if (newest.current !== next) return
    if (answer.data) setView(answer.data)
    else {
      const { message, detail, hint } = problemOf(answer.error)
      setProblem({ message, more: [detail, hint].filter(Boolean).join(' ') })
      if (!next.take) setView(null)
    }
  }
  return {
    file,
    options,
    view,
    problem,
    choose(chosen) {
      setFile(chosen)
      void look(chosen, begin)
    },
    change(part) {
      if (file) void look(file, { ...newest.current, ...part, take: false })
    },
    set: (part) => setOptions({ ...options, ...part }),
    take() {
      if (file) void look(file, { ...options, columns: view?.columns ?? null, take: true })
    },
  }
}
