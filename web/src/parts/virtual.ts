/** The one virtual scroller: which of many rows or columns are in sight, and how to bring one into it. */
import { elementScroll, observeElementOffset, useVirtualizer, type Range, type VirtualItem, type Virtualizer } from '@tanstack/vue-virtual'
import { computed, type ComputedRef, type Ref, shallowRef } from 'vue'

import { Mapped, TALLEST } from './mapped'

export interface Strip {
  count: number
  /** Pixels of each, or of all. */
  size: number | ((index: number) => number)
  /** Pixels before the first, and those that stay covered when one is brought into sight. */
  before?: number
  covered?: number
  /** The first so many are always there. */
  frozen?: number
  across?: boolean
  overscan?: number
  gap?: number
}

export interface Virtual {
  shown: ComputedRef<VirtualItem[]>
  total: ComputedRef<number>
  /** How many pixels lie above what is in sight. */
  offset: () => number
  show: (index: number, where?: 'auto' | 'center' | 'start') => void
  /** Sizes are to be asked for anew. */
  measure: () => void
  /** Given to each row as its ref where their heights are known only when they are drawn. */
  measured: (element: unknown) => void
}

export function useVirtual(scroller: Readonly<Ref<HTMLElement | null | undefined>>, strip: () => Strip): Virtual {
  const mapped = new Mapped()
  const shift = shallowRef(0)
  let told: (down: number, moving: boolean) => void = () => undefined
  const along = (across: boolean): number => scroller.value?.[across ? 'clientWidth' : 'clientHeight'] ?? 0
  const virtual = useVirtualizer<HTMLElement, Element>(
    computed(() => {
      const { count, size, before = 0, covered = before, frozen = 0, across = false, overscan = 6, gap = 0 } = strip()
      return {
        count, horizontal: across, overscan, gap,
        getScrollElement: () => scroller.value ?? null,
        estimateSize: typeof size === 'number' ? () => size : size,
        paddingStart: before,
        scrollPaddingStart: covered,
        rangeExtractor: (range: Range) => inSight(range, frozen),
        observeElementOffset: (instance: Virtualizer<HTMLElement, Element>, tell: (down: number, moving: boolean) => void) =>
          observeElementOffset(instance, (scrolled, moving) => {
            told = tell
            mapped.measure(instance.getTotalSize(), along(across))
            const down = mapped.seen(scrolled)
            if (!moving && mapped.shift !== 0) elementScroll(mapped.to(down), { behavior: 'auto' }, instance)
            shift.value = mapped.shift
            tell(down, moving)
          }),
        scrollToFn: (down: number, options: { adjustments?: number; behavior?: ScrollBehavior }, instance: Virtualizer<HTMLElement, Element>) => {
          mapped.measure(instance.getTotalSize(), along(across))
          elementScroll(mapped.to(down + (options.adjustments ?? 0)), { behavior: options.behavior }, instance)
          shift.value = mapped.shift
        },
      }
    }),
  )
  /** Brings one into sight where the height is mapped: the virtualizer knows no further than its element is tall. */
  function showMapped(index: number, where: 'auto' | 'center' | 'start'): void {
    const { size, before = 0, covered = before } = strip()
    const [view, row] = [along(false), size as number]
    const [start, now] = [before + index * row, offset()]
    const above = start - covered
    const target =
      where === 'center' ? start - (view - row) / 2 : where === 'start' || above < now ? above : start + row > now + view ? start + row - view : now
    if (target === now) return
    virtual.value.options.scrollToFn(target, {}, virtual.value)
    told(offset(), false) // where the bar stays where it is nothing else tells
  }
  const offset = (): number => (scroller.value?.[strip().across ? 'scrollLeft' : 'scrollTop'] ?? 0) + shift.value

  return {
    shown: computed(() => {
      const items = virtual.value.getVirtualItems()
      return shift.value ? items.map((item) => ({ ...item, start: item.start - shift.value })) : items
    }),
    total: computed(() => Math.min(virtual.value.getTotalSize(), TALLEST)),
    offset,
    show: (index, where = 'auto') =>
      virtual.value.getTotalSize() > TALLEST ? showMapped(index, where) : virtual.value.scrollToIndex(index, { align: where }),
    measure: () => virtual.value.measure(),
    measured: (element) => virtual.value.measureElement(element as HTMLElement | null),
  }
}

function inSight(range: Range, frozen: number): number[] {
  const out = Array.from({ length: frozen }, (_, index) => index)
  const from = Math.max(frozen, range.startIndex - range.overscan)
  const to = Math.min(range.count - 1, range.endIndex + range.overscan)
  for (let index = from; index <= to; index++) out.push(index)
  return out
}
