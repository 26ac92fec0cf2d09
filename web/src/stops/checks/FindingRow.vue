<script setup lang="ts">
import type { Finding } from '@/api/client'
import FindingText from '@/parts/FindingText.vue'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'

defineProps<{ finding: Finding }>()
const emit = defineEmits<{ accept: [] }>()
const study = useStudy()
</script>

<template>
  <div class="row" :class="finding.severity" data-test="finding">
    <i :title="finding.severity" role="img" :aria-label="finding.severity" />
    <div class="words"><FindingText :finding="finding" named /></div>
    <span class="ways">
      <router-link class="act" :to="{ name: 'codebook', params: { study: study.id, variable: finding.variable } }" data-test="see-variable">see the tag</router-link>
      <button class="act" data-test="accept" @click="emit('accept')">accept…</button>
    </span>
    <span class="count">{{ finding.count ? count(finding.count) : '' }}</span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 10px 16px;
  font-size: 13.5px;
}

.row + .row {
  border-top: 1px solid var(--line);
}

i {
  width: 12px;
  height: 12px;
  border-radius: 2px;
  flex: none;
  background: var(--edge);
}

.error i {
  background: var(--beet);
}

.warning i {
  background: repeating-linear-gradient(135deg, var(--straw) 0 2.5px, var(--straw-pale) 2.5px 5px);
}

.words {
  flex: 1;
  min-width: 0;
}

.ways {
  display: flex;
  gap: 14px;
}

.count {
  width: 56px;
  text-align: right;
}
</style>
