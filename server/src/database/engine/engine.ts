import { setImmediate, setTimeout } from 'node:timers/promises'
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
 * The database in its thread. A transaction has it alone. What a transaction wrote is on the disk when its promise
 * resolves, and before anybody else is told of it; several that end close together share one sync.
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
  /** The end of the transaction that has the database now. */
  #transaction: Promise<void> | null = null
  /** Transactions that wait for their turn. */
  #waiting = 0
  /** The sync that what was committed so far waits for, until it begins. */
  #sync: Promise<void> | null = null
  #writes = 0
  /** How long the last sync took, ms: so long the next may be put off for others to share it. */
  #syncTook = 0

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
    const end = await this.#begin()
    this.#writes++
    let result: T
    try {
      // The commit does not wait for the disk by itself: that is done once for all that end close together.
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
    this.#sync ??= this.#others().then(() => {
      this.#sync = null
      return this.#syncNow()
    })
    await this.#sync
    return result
  }

  /** Copies the database as it is between two transactions into a folder that is made for it. */
  async copyTo(folder: string): Promise<void> {
    const end = await this.#begin()
    try {
      await this.#call({ call: 'copy', to: folder })
    } finally {
      end()
    }
  }

  async close(): Promise<void> {
    while (this.#transaction) await this.#transaction
    this.#closing = true
    // One that has ended by itself has nothing to close.
    if (!this.#stopped) await this.#call({ call: 'close' })
    await this.#thread.terminate()
  }

  async #begin(): Promise<() => void> {
    this.#waiting++
    while (this.#transaction) await this.#transaction
    this.#waiting--
    let end = () => {}
    this.#transaction = new Promise((resolve) => {
      end = () => {
        this.#transaction = null
        resolve()
      }
    })
    return end
  }

  /** What is read before a sync is told after it: else somebody could act on what a power cut takes away. */
  async #betweenTransactions<T>(asked: () => Promise<T>): Promise<T> {
    while (this.#transaction) await this.#transaction
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

  /** Resolves when no other transaction is about to end, or when waiting for it would take as long as a sync. */
  async #others(): Promise<void> {
    const until = performance.now() + this.#syncTook
    for (let left = this.#syncTook; left > 0 && (this.#transaction || this.#waiting > 0); ) {
      await (this.#transaction ? Promise.race([this.#transaction, setTimeout(left)]) : setImmediate())
      left = until - performance.now()
    }
  }

  async #syncNow(): Promise<void> {
    const began = performance.now()
    // A transaction that wrote something is on the disk when it ends, and all before it with it.
    await this.#exec("select pg_logical_emit_message(true, 'sync', '')")
    this.#syncTook = performance.now() - began
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
