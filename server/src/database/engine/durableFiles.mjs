// @ts-check
import { closeSync, fsyncSync, openSync } from 'node:fs'
import { dirname } from 'node:path'
import { NodeFS } from '@electric-sql/pglite/nodefs'

/**
 * @typedef {{ name: string, parent: FileNode, mount: { opts: { root: string } } }} FileNode
 * @typedef {{
 *   realPath(node: FileNode): string
 *   node_ops: Record<string, (...args: any[]) => any>
 *   stream_ops: Record<string, (...args: any[]) => any>
 * }} NodeFiles the part of Emscripten's NODEFS that is changed here
 */

/**
 * The files of the database on the disk, as PGlite has them but for one thing: what PostgreSQL wants synced is synced.
 * The library leaves fsync out, and a name in a folder is lasting only when its folder is synced, too.
 */
export class DurableFiles extends NodeFS {
  /**
   * @override
   * @param {Parameters<NodeFS['init']>[0]} pg
   * @param {Parameters<NodeFS['init']>[1]} options
   */
  async init(pg, options) {
    const { emscriptenOpts } = await super.init(pg, options)
    return {
      emscriptenOpts: {
        ...emscriptenOpts,
        preRun: [
          (/** @type {{ NODEFS: NodeFiles }} */ module) => syncAll(module.NODEFS),
          ...(emscriptenOpts.preRun ?? []),
        ],
      },
    }
  }
}

/** @param {NodeFiles} files */
function syncAll(files) {
  const { node_ops: names, stream_ops: streams } = files
  streams.fsync = (stream) => {
    fsyncSync(stream.nfd)
    return 0
  }
  const { mknod, rename, unlink, rmdir } = names
  names.mknod = (parent, ...rest) => {
    const node = mknod?.(parent, ...rest)
    syncFolder(files.realPath(parent))
    return node
  }
  names.rename = (node, newFolder, newName) => {
    const from = dirname(files.realPath(node))
    rename?.(node, newFolder, newName)
    const to = files.realPath(newFolder)
    syncFolder(to)
    if (from !== to) syncFolder(from)
  }
  names.unlink = (parent, name) => {
    unlink?.(parent, name)
    syncFolder(files.realPath(parent))
  }
  names.rmdir = (parent, name) => {
    rmdir?.(parent, name)
    syncFolder(files.realPath(parent))
  }
}

/**
 * Makes the names in a folder lasting. Windows does so by itself and opens no folder.
 * @param {string} path
 */
function syncFolder(path) {
  if (process.platform !== 'win32') syncPath(path)
}

/** @param {string} path of a file or, but for Windows, a folder */
function syncPath(path) {
  const handle = openSync(path, 'r')
  try {
    fsyncSync(handle)
  } finally {
    closeSync(handle)
  }
}
