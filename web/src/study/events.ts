/** Hearing of what happens to a study. All windows of it share one connection, for browsers allow only a few. */
export interface Hears {
  revision: (told: { revision: number; step: string | null }) => void
  /** Findings across variables hold for a revision now. */
  checked: (told: { revision: number }) => void
  /** Something may have been missed. */
  missed: () => void
}

type Kind = keyof Hears
interface Message {
  kind: Kind
  told?: unknown
}

/** Tells what happens to a study; gives what ends it. */
export function listen(study: string, hears: Hears): () => void {
  const tell = ({ kind, told }: Message): void => (hears[kind] as (told: unknown) => void)(told)
  const channel = new BroadcastChannel(`row-tag-${study}`)
  channel.onmessage = (event) => tell(event.data as Message)
  let ending = new AbortController()

  function connect(ended: AbortSignal): Promise<void> {
    const events = new EventSource(`/api/studies/${study}/events`)
    const pass = (message: Message): void => {
      channel.postMessage(message)
      tell(message)
    }
    events.addEventListener('open', () => pass({ kind: 'missed' }))
    for (const kind of ['revision', 'checked'] as const) {
      events.addEventListener(kind, (event) => pass({ kind, told: JSON.parse(event.data) }))
    }
    return new Promise((done) =>
      ended.addEventListener('abort', () => {
        events.close()
        done()
      }),
    )
  }

  function start(): void {
    ending = new AbortController()
    const { signal } = ending
    // Locks are there on this machine and over https only; elsewhere each window has its own connection.
    if (!navigator.locks) void connect(signal)
    else void navigator.locks.request(`row-tag-${study}`, { signal }, () => connect(signal)).catch(() => undefined)
  }

  const leave = (): void => ending.abort()
  const comeBack = (event: PageTransitionEvent): void => {
    if (event.persisted) start()
  }
  // A page that is left may be kept for going back to it; it must not keep the connection.
  window.addEventListener('pagehide', leave)
  window.addEventListener('pageshow', comeBack)
  start()

  return () => {
    window.removeEventListener('pagehide', leave)
    window.removeEventListener('pageshow', comeBack)
    leave()
    channel.close()
  }
}
