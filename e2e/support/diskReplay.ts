import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { basename, dirname, join, relative } from 'node:path'
import type { RandomStream } from '@frustum/core'
import type { DiskOp } from './recordDisk.mjs'

/** Bytes that a disk writes whole. */
const SECTOR = 4096

class DiskFile {
  private now: Buffer = Buffer.alloc(0)
  private size = 0
  private lasting: Buffer = Buffer.alloc(0)
  private readonly dirty = new Set<number>()

  write(at: number, bytes: Uint8Array): void {
    this.resize(Math.max(this.size, at + bytes.length))
    this.now.set(bytes, at)
    for (let s = Math.floor(at / SECTOR); s * SECTOR < at + bytes.length; s++) this.dirty.add(s)
  }

  resize(size: number): void {
    if (size > this.now.length) {
      const larger = Buffer.alloc(Math.max(size, 2 * this.now.length))
      larger.set(this.now.subarray(0, this.size))
      this.now = larger
    } else if (size < this.size) this.now.fill(0, size, this.size)
    this.size = size
  }

  sync(): void {
    this.lasting = this.after(() => true)
    this.dirty.clear()
  }

  /** What a cut leaves: what was synced, and of the sectors written since those that were kept by chance. */
  after(kept: (sector: number) => boolean): Buffer {
    // The length of a file changes with its contents; one that was synced is never shorter than then for what follows.
    const all = [...this.dirty].every((sector) => kept(sector))
    const left = Buffer.alloc(all ? this.size : this.lasting.length)
    this.lasting.copy(left)
    for (const sector of this.dirty) {
      const from = sector * SECTOR
      if (from < left.length && (all || kept(sector)))
        this.now.copy(left, from, from, Math.min(from + SECTOR, left.length, this.size))
    }
    return left
  }
}

class DiskFolder {
  readonly now = new Map<string, DiskFile | DiskFolder>()
  lasting = new Map<string, DiskFile | DiskFolder>()

  sync(): void {
    this.lasting = new Map(this.now)
  }

  /** Takes over what a real folder holds, as synced. */
  load(path: string): void {
    for (const entry of readdirSync(path, { withFileTypes: true })) {
      const node = entry.isDirectory() ? new DiskFolder() : new DiskFile()
      if (node instanceof DiskFolder) node.load(join(path, entry.name))
      else {
        node.write(0, readFileSync(join(path, entry.name)))
        node.sync()
      }
      this.now.set(entry.name, node)
    }
    this.sync()
  }
}

/**
 * A disk that forgets what was not synced: plays what recordDisk.mjs wrote down and says what a power cut leaves. File
 * contents last with a sync of the file, names with a sync of their folder.
 */
export class DiskReplay {
  private readonly root = new DiskFolder()
  private readonly handles = new Map<number, DiskFile | DiskFolder>()
  private at = 0

  constructor(
    private readonly record: Buffer,
    private readonly rootPath: string,
    /** A folder that was there, and on the disk, before. */
    before?: string,
  ) {
    if (before) this.root.load(before)
  }

  /** Where each thing that was done ends in the record. */
  static ends(record: Buffer): number[] {
    const ends: number[] = []
    for (let at = 0; at < record.length; ) {
      const lineEnd = record.indexOf(10, at)
      const { length = 0 } = JSON.parse(record.toString('utf8', at, lineEnd)) as { length?: number }
      at = lineEnd + 1 + length
      ends.push(at)
    }
    return ends
  }

  /** Plays on up to this many bytes of the record: what is only half written down by then has not happened. */
  playTo(end: number): void {
    while (this.at < end) {
      const lineEnd = this.record.indexOf(10, this.at)
      if (lineEnd < 0) return
      const op = JSON.parse(this.record.toString('utf8', this.at, lineEnd)) as DiskOp
      const length = 'length' in op ? (op.length ?? 0) : 0
      const next = lineEnd + 1 + length
      if (next > end) return
      this.play(op, this.record.subarray(lineEnd + 1, next))
      this.at = next
    }
  }

  /**
   * Writes what a cut at this moment leaves into a folder.
   * @param random of what was not synced each sector and name is kept or lost by chance; without it all of it is lost
   */
  cut(into: string, random: RandomStream | null): void {
    const kept = () => random !== null && random.between(0, 1) < 0.5
    const put = (folder: DiskFolder, path: string) => {
      mkdirSync(path, { recursive: true })
      for (const name of new Set([...folder.lasting.keys(), ...folder.now.keys()])) {
        const [was, is] = [folder.lasting.get(name), folder.now.get(name)]
        const node = was === is || !kept() ? was : is
        if (node instanceof DiskFolder) put(node, join(path, name))
        else if (node) writeFileSync(join(path, name), node.after(kept))
      }
    }
    put(this.root, into)
  }

  private play(op: DiskOp, bytes: Buffer): void {
    switch (op.op) {
      case 'folder':
        this.makeFolder(op.path)
        break
      case 'file': {
        const file = this.fileAt(op.path)
        file.resize(0)
        file.write(0, bytes)
        break
      }
      case 'open':
        this.handles.set(op.fd, this.nodeAt(op.path) ?? this.fileAt(op.path))
        if (op.fresh) this.fileAt(op.path).resize(0)
        break
      case 'close':
        this.handles.delete(op.fd)
        break
      case 'write':
        ;(this.handles.get(op.fd) as DiskFile).write(op.at, bytes)
        break
      case 'ftruncate':
        ;(this.handles.get(op.fd) as DiskFile).resize(op.size)
        break
      case 'truncate':
        this.fileAt(op.path).resize(op.size)
        break
      case 'sync':
        this.handles.get(op.fd)?.sync()
        break
      case 'syncPath':
        this.nodeAt(op.path)?.sync()
        break
      case 'rename': {
        const node = this.nodeAt(op.path)
        this.folderOf(op.path).now.delete(basename(op.path))
        if (node) this.folderOf(op.to).now.set(basename(op.to), node)
        break
      }
      case 'unlink':
      case 'rmdir':
        this.folderOf(op.path).now.delete(basename(op.path))
    }
  }

  private nodeAt(path: string): DiskFile | DiskFolder | undefined {
    let node: DiskFile | DiskFolder | undefined = this.root
    for (const name of relative(this.rootPath, path).split('/').filter(Boolean)) {
      if (!(node instanceof DiskFolder)) return undefined
      node = node.now.get(name)
    }
    return node
  }

  private folderOf(path: string): DiskFolder {
    const folder = this.nodeAt(dirname(path))
    if (!(folder instanceof DiskFolder)) throw new Error(`The record names no folder of ${path}.`)
    return folder
  }

  private makeFolder(path: string): void {
    if (path === this.rootPath || this.nodeAt(path)) return
    this.folderOf(path).now.set(basename(path), new DiskFolder())
  }

  private fileAt(path: string): DiskFile {
    const known = this.nodeAt(path)
    if (known instanceof DiskFile) return known
    const made = new DiskFile()
    this.folderOf(path).now.set(basename(path), made)
    return made
  }
}
