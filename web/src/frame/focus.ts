/**
 * Where hands are: focus never falls to the page. Places that are worked in bear `data-room`, and within them what one
 * begins with bears `data-home`. Where what had focus is gone, focus goes to what stands in its place, to where it was
 * before in the same room, or home.
 */
import { useEventListener, useMutationObserver } from '@vueuse/core'
import { watch, type WatchSource } from 'vue'

const ROOM = '[data-room]'
const HOME = '[data-home]'
const TAKES_KEYS = 'input, select, textarea, button, a[href], [tabindex="0"]'
/** Elements that had focus and are remembered, newest last. */
const REMEMBERED = 40

const isThere = (element: HTMLElement): boolean =>
  element.isConnected && element.checkVisibility({ visibilityProperty: true }) && !element.matches(':disabled')

let goHome = (): void => undefined

/** Leads out of a field, to what one begins with in the room that it stands in. */
export function leave(): void {
  ;(document.activeElement as HTMLElement | null)?.blur()
  goHome()
}

/** Does what the filled button says that is nearest around the hands; one that cannot be pressed now hides those around it. */
export function pressFilled(): void {
  for (let place = document.activeElement; place; place = place.parentElement) {
    const filled = [...place.querySelectorAll<HTMLElement>('.v-btn--variant-flat.bg-primary')].filter((each) => each.checkVisibility())
    if (filled.length) return filled[0]!.click()
  }
}

/** Leads to the first of what is named so for tests and keys alike, within the place that is worked in. */
export function leadTo(name: string): void {
  const found = [...document.querySelectorAll<HTMLElement>(`[data-test="${name}"]`)].find(isThere)
  found?.focus()
  found?.scrollIntoView({ block: 'nearest' })
}

/** What comes after a field in a run of them (`data-run`), so that one is typed after the other; else leads out. */
export function leadOn(field: HTMLElement): void {
  const run = [...(field.closest('[data-run]')?.querySelectorAll<HTMLElement>('textarea, input:not([type])') ?? [])].filter(isThere)
  const next = run[run.indexOf(field) + 1]
  if (next) next.focus()
  else leave()
}

/** Keeps focus in the room that is worked in; `place` is what makes another one of it, such as the stop. */
export function useFocusKept(place: WatchSource<unknown>): void {
  let been: HTMLElement[] = []
  let known: HTMLElement | undefined
  let moved = true
  let looking = false
  let stood = { x: 0, y: 0 }

  const focused = (): HTMLElement | null => (document.activeElement === document.body ? null : (document.activeElement as HTMLElement | null))
  const roomNow = (): HTMLElement | undefined => [...document.querySelectorAll<HTMLElement>(ROOM)].filter(isThere).at(-1)

  /** What stands in the place of something that is gone: of the same kind, called the same, nearest to where it was. */
  function inPlaceOf(gone: HTMLElement | undefined, room: HTMLElement): HTMLElement | undefined {
    if (!gone || gone.isConnected) return undefined
    const called = ['aria-label', 'title'].filter((name) => gone.hasAttribute(name))
    if (!called.length) return undefined
    const same = room.querySelectorAll<HTMLElement>(gone.tagName + called.map((name) => `[${name}="${CSS.escape(gone.getAttribute(name)!)}"]`).join(''))
    const away = (each: HTMLElement): number => {
      const { x, y } = each.getBoundingClientRect()
      return Math.abs(x - stood.x) + Math.abs(y - stood.y)
    }
    return [...same].filter(isThere).sort((one, other) => away(one) - away(other))[0]
  }

  /** What one begins with in a room: what is marked, or the first that takes keys within it; else the room itself. */
  function home(room: HTMLElement): HTMLElement {
    const marked = room.querySelector<HTMLElement>(HOME)
    const first = (within: HTMLElement | null): HTMLElement | undefined =>
      [...(within?.querySelectorAll<HTMLElement>(TAKES_KEYS) ?? [])].find(isThere)
    if (marked) return (marked.matches(TAKES_KEYS) && isThere(marked) ? marked : first(marked)) ?? room
    return first(room) ?? room
  }

  function look(): void {
    looking = false
    const room = roomNow()
    const here = focused()
    if (!room || document.querySelector('.v-overlay--active[role="dialog"]')) return
    if (room !== known && known?.isConnected && known.contains(room)) moved = true // it was opened above another
    known = room
    const last = been.at(-1)
    const settled = here !== null && here !== room && room.contains(here)
    if (settled) moved = false
    if (settled || (!moved && (here || (last && isThere(last))))) return
    const before = moved ? undefined : [...been].reverse().find((each) => each !== room && room.contains(each) && isThere(each))
    const target = moved ? home(room) : (inPlaceOf(last, room) ?? before ?? home(room))
    target.focus()
    if (target !== room) moved = false // else what it begins with is still to come
  }

  /** Looks when all that happens now has been drawn: only then does a browser let go of what is not there any more. */
  function lookSoon(): void {
    if (looking) return
    looking = true
    requestAnimationFrame(() => requestAnimationFrame(look))
  }

  useEventListener(document, 'focusin', (event) => {
    const element = event.target as HTMLElement
    been = [...been.filter((each) => each !== element && each.isConnected), element].slice(-REMEMBERED)
    stood = element.getBoundingClientRect()
  })
  useEventListener(document, 'focusout', lookSoon)
  useMutationObserver(document.body, lookSoon, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled', 'hidden'] })
  goHome = () => {
    moved = true
    look()
  }
  watch(place, () => {
    moved = true
    lookSoon()
  })
}
