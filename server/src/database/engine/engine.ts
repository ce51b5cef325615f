import { Worker } from 'node:worker_threads'
import type { QueryOptions, Results } from '@electric-sql/pglite'

const THREAD = new URL('./thread.mjs', import.meta.url)

type Answer =
  | { ready: true }
  | { panic: string }
  | { id: number; result: unknown }
  | { id: number; error: { message: string } }

/** What is written together with what is asked for now, in the same transaction. */
interface Companion {
  wanted(): boolean
  write(tx: Statements): Promise<void>
}

interface Statements {
  query<T>(sql: string, params?: unknown[], options?: QueryOptions): Promise<Results<T>>
  exec(sql: string): Promise<Results[]>
}

/** The outcome of a statement; the library's type leaves the command out. */
type Ended = Results & { command?: string }

/**
 * The database in its thread. A transaction has it alone. What a transaction wrote is on disk when its promise
 * resolves, and before any other reader sees it. A sync takes a turn of its own, after the transactions that were
 * queued when it was requested, so they share it.
 */
export class Engine implements Statements {
  readonly ready: Promise<void>
  /** Resolves with the reason when it ends by itself. */
  readonly failed: Promise<Error>
  companion: Companion | null = null
  readonly #thread: Worker
  readonly #pending = new Map<number, { resolve: (result: never) => void; reject: (why: Error) => void }>()
  #calls = 0
  #stopped: Error | null = null
  #closing = false
  /** The end of the queue: resolves when every transaction and sync queued so far has ended. */
  #queue: Promise<void> = Promise.resolve()
  /** The sync that covers everything committed so far, until it begins. */
  #sync: Promise<void> | null = null
  #writes = 0

  /** @param path folder of an existing database */
  constructor(path: string) {
    this.#thread = new Worker(THREAD, { workerData: { path }, execArgv: [] })
    let fail: (why: Error) => void
    this.failed = new Promise((resolve) => {
      fail = resolve
    })
    this.ready = new Promise((resolve, reject) => {
      this.#thread.on('message', (answer: Answer) => {
        if ('ready' in answer) resolve()
        else if ('panic' in answer) stop(new Error(answer.panic))
        else this.#take(answer)
      })
      const stop = (why: Error) => {
        this.#stopped ??= why
        reject(this.#stopped)
        if (!this.#closing) fail(this.#stopped)
        for (const waiting of this.#pending.values()) waiting.reject(this.#stopped)
        this.#pending.clear()
      }
      this.#thread.once('error', stop)
      this.#thread.once('exit', () => stop(new Error('The database has ended.')))
    })
    // Who waits for it learns of a failure; it may fail before anybody does.
    this.ready.catch(() => undefined)
  }

  /** How often anything may have been written: as long as it stays, so does what was read. */
  get writes(): number {
    return this.#writes
  }

  query<T>(sql: string, params: unknown[] = [], options: QueryOptions = {}): Promise<Results<T>> {
    const reads = /^\s*select\b/i.test(sql)
    if (!reads && this.companion?.wanted()) return this.transaction((tx) => tx.query<T>(sql, params, options))
    return this.#betweenTransactions(() => {
      const asked = () => this.#query<T>(sql, params, options)
      return reads ? asked() : this.#writing(asked)
    })
  }

  /** Several statements without parameters. */
  exec(sql: string): Promise<Results[]> {
    return this.#betweenTransactions(() => this.#writing(() => this.#exec(sql)))
  }

  /** @throws Error what `work` throws, when everything is as it was before */
  async transaction<T>(work: (tx: Statements) => Promise<T>): Promise<T> {
    const end = await this.#takeTurn()
    this.#writes++
    let result: T
    try {
      // The commit doesn't wait for the disk: one sync serves all transactions of the queue.
      await this.#exec('begin; set local synchronous_commit = off')
      const tx: Statements = { query: (...asked) => this.#query(...asked), exec: (sql) => this.#exec(sql) }
      result = await work(tx)
      if (this.companion?.wanted()) await this.companion.write(tx)
      const [ended] = (await this.#exec('commit')) as Ended[]
      if (ended?.command === 'ROLLBACK') throw new Error('The transaction had failed; nothing of it was kept.')
    } catch (error) {
      if (!this.#stopped) await this.#exec('rollback')
      throw error
    } finally {
      this.#writes++
      end()
    }
    this.#sync ??= this.#syncInTurn()
    await this.#sync
    return result
  }

  /** Copies the database as it is between two transactions into a folder that is made for it. */
  async copyTo(folder: string): Promise<void> {
    const end = await this.#takeTurn()
    try {
      await this.#call({ call: 'copy', to: folder })
    } finally {
      end()
    }
  }

  async close(): Promise<void> {
    const end = await this.#takeTurn()
    this.#closing = true
    try {
      // One that has ended by itself has nothing to close.
      if (!this.#stopped) await this.#call({ call: 'close' })
      await this.#thread.terminate()
    } finally {
      end()
    }
  }

  /** Waits for everything queued so far. Returns the way to end the turn. */
  async #takeTurn(): Promise<() => void> {
    const before = this.#queue
    let end = () => {}
    this.#queue = new Promise((resolve) => {
      end = resolve
    })
    await before
    return end
  }

  /** Answers only after the pending sync: a reader must not act on what a power cut could still undo. */
  async #betweenTransactions<T>(asked: () => Promise<T>): Promise<T> {
    await this.#queue
    const [results] = await Promise.all([asked(), this.#sync])
    return results
  }

  /** Counted before and after: what is read in between may be of either side. */
  async #writing<T>(asked: () => Promise<T>): Promise<T> {
    this.#writes++
    try {
      return await asked()
    } finally {
      this.#writes++
    }
  }

  /**
   * Syncs outside of any transaction: within one the statement would flush nothing, and would fail with it. The commit of
   * a statement that writes to the log flushes everything before it, too.
   */
  async #syncInTurn(): Promise<void> {
    const end = await this.#takeTurn()
    // What commits from now on needs the next one.
    this.#sync = null
    try {
      await this.#exec("select pg_logical_emit_message(true, 'sync', '')")
    } finally {
      end()
    }
  }

  #query<T>(sql: string, params: unknown[] = [], { rowMode = 'object', blob }: QueryOptions = {}): Promise<Results<T>> {
    return this.#call({ call: 'query', sql, params, rowMode, blob })
  }

  #exec(sql: string): Promise<Results[]> {
    return this.#call({ call: 'exec', sql })
  }

  #call<T>(asked: object): Promise<T> {
    if (this.#stopped) return Promise.reject(this.#stopped)
    const id = ++this.#calls
    return new Promise<T>((resolve, reject) => {
      this.#pending.set(id, { resolve, reject })
      this.#thread.postMessage({ id, ...asked })
    })
  }

  #take(answer: Exclude<Answer, { ready: true } | { panic: string }>): void {
    const waiting = this.#pending.get(answer.id)
    this.#pending.delete(answer.id)
    if ('error' in answer) waiting?.reject(Object.assign(new Error(answer.error.message), answer.error))
    else waiting?.resolve(answer.result as never)
  }
}
