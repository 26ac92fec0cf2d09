<script setup lang="ts">
/** Says that the lines below are shared, with whom, and how to have lines of one's own. */
import { computed } from 'vue'

import type { CodebookPage } from '@/api/client'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ page: CodebookPage }>()
const study = useStudy()
const others = computed(() => (props.page.shared?.variables ?? []).filter((id) => !props.page.ids.includes(id)))
const names = computed(() => others.value.map((id) => study.byId.get(id)?.name).join(', '))
const detach = (): Promise<unknown> => study.take({ do: 'detach list', format: 1, variables: props.page.ids })
</script>

<template>
  <p class="shared" data-test="shared">
    <template v-if="page.shared">
      <b>{{ page.shared.name }}</b> is a shared list<template v-if="others.length">: what you change here changes <span :title="names">{{ counted(others.length, 'other tag') }}</span> too</template>.
      <button class="act" data-test="own-lines" @click="detach">Give {{ page.ids.length > 1 ? 'these' : 'this one' }} lines of its own</button>
    </template>
    <template v-else>These tags use different code lists.</template>
  </p>
</template>

<style scoped>
.shared {
  margin: 4px 0 8px;
  padding: 5px 10px;
  border-left: 3px solid var(--leaf);
  background: var(--sheet);
  font-size: 13px;
}

.act {
  margin-left: 8px;
}
</style>
