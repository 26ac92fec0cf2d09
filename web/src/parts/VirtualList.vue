<script setup lang="ts" generic="T">
/** A list of which only what is in sight is drawn; rows may be of any height. Those with a key of their own stay what they
 * are while others go. */
import { useTemplateRef } from 'vue'

import { useVirtual } from './virtual'

const props = withDefaults(defineProps<{ items: readonly T[]; height?: number; keyOf?: (item: T) => string }>(), { height: 40, keyOf: undefined })
const scroller = useTemplateRef<HTMLElement>('scroller')
const { shown, total, show, measured } = useVirtual(scroller, () => ({ count: props.items.length, size: props.height, overscan: 8 }))
defineExpose({ show })
</script>

<template>
  <div ref="scroller" class="virtual-list">
    <div class="all" role="presentation" :style="{ height: `${total}px` }">
      <div
        v-for="row in shown" :key="keyOf && items[row.index] ? keyOf(items[row.index]!) : row.index" :ref="measured" role="presentation" class="item" :data-index="row.index"
        :style="{ transform: `translateY(${row.start}px)` }"
      >
        <slot v-if="items[row.index]" :item="items[row.index]!" :index="row.index" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.virtual-list {
  overflow: auto;
}

.all {
  position: relative;
}

.item {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
}
</style>
