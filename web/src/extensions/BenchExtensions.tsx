import type { BenchContext, BenchPart, WebExtension } from '@frustum/contract'
import type { FieldSpec } from '@frustum/core'
import { type RefObject, useEffect, useRef } from 'react'
import { toast } from 'sonner'
import { useSiteQuery } from '../store/api.ts'

/** Parts that were added to the Bench, while they are mounted. */
export type BenchParts = RefObject<Set<BenchPart>>

interface BenchExtensionsProps extends Omit<BenchContext, 'complain'> {
  parts: BenchParts
}

/** Places for what the server's extensions add to the Bench; without extensions there is nothing. */
export function BenchExtensions({ visit, live, parts }: BenchExtensionsProps) {
  const { data: site } = useSiteQuery()
  return site?.extensions.map(({ name, module }) => (
    <BenchSlot key={name} module={module} visit={visit} live={live} parts={parts} />
  ))
}

function BenchSlot({ module, visit, live, parts }: BenchExtensionsProps & { module: string }) {
  const host = useRef<HTMLDivElement>(null)
  const part = useRef<BenchPart | null>(null)
  const context = useRef<BenchContext>({ visit, live, complain: (message) => void toast.error(message) })
  context.current = { ...context.current, visit, live }
  useEffect(() => {
    let gone = false
    let mounted: BenchPart | null = null
    const mount = async () => {
      // Its address is the server's word: the product is built without it.
      const loaded = (await import(/* @vite-ignore */ module)) as { default: WebExtension<HTMLElement> }
      if (gone || !host.current) return
      mounted = loaded.default.mountBench?.(host.current, context.current) ?? null
      part.current = mounted
      if (mounted) parts.current.add(mounted)
    }
    void mount().catch(() => toast.error('A part of this page could not be loaded.', { description: module }))
    return () => {
      gone = true
      if (!mounted) return
      parts.current.delete(mounted)
      mounted.unmount()
      part.current = null
    }
  }, [module, parts])
  useEffect(() => part.current?.update(context.current))
  return <div ref={host} className="sm:order-first" />
}

/** Gives every added part its turn before a field is read from the line. */
export async function beforeReading(parts: BenchParts, field: FieldSpec): Promise<void> {
  for (const part of parts.current) await part.beforeReading?.(field)
}
