/** The one virtual scroller: which of many rows or columns are in sight, and how to bring one into it. */
import { useVirtualizer, type Range, type VirtualItem } from '@tanstack/vue-virtual'
import { computed, type ComputedRef, type Ref } from 'vue'

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
  show: (index: number, where?: 'auto' | 'center' | 'start') => void
  /** Sizes are to be asked for anew. */
  measure: () => void
  /** Given to each row as its ref where their heights are known only when they are drawn. */
  measured: (element: unknown) => void
}

export function useVirtual(scroller: Readonly<Ref<HTMLElement | null | undefined>>, strip: () => Strip): Virtual {
  const virtual = useVirtualizer(
    computed(() => {
      const { count, size, before = 0, covered = before, frozen = 0, across = false, overscan = 6, gap = 0 } = strip()
      return {
        count, horizontal: across, overscan, gap,
        getScrollElement: () => scroller.value ?? null,
        estimateSize: typeof size === 'number' ? () => size : size,
        paddingStart: before,
        scrollPaddingStart: covered,
        rangeExtractor: (range: Range) => inSight(range, frozen),
      }
    }),
  )
  return {
    shown: computed(() => virtual.value.getVirtualItems()),
    total: computed(() => virtual.value.getTotalSize()),
    show: (index, where = 'auto') => virtual.value.scrollToIndex(index, { align: where }),
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
