/** Hearing of new revisions. All windows of a study share one connection, for browsers allow only a few. */

/** Tells each new revision of a study, and (with 0) that some may have been missed; gives what ends it. */
export function listen(study: string, tell: (revision: number) => void): () => void {
  const channel = new BroadcastChannel(`row-tag-${study}`)
  channel.onmessage = (event) => tell(Number(event.data))
  let ending = new AbortController()

  function connect(ended: AbortSignal): Promise<void> {
    const events = new EventSource(`/api/studies/${study}/events`)
    const pass = (revision: number): void => {
      channel.postMessage(revision)
      tell(revision)
    }
    events.addEventListener('open', () => pass(0))
    events.addEventListener('revision', (event) => pass(Number(event.data)))
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
