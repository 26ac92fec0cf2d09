<script setup lang="ts">
import type { CodebookPage } from '@/api/client'
import FindingText from '@/parts/FindingText.vue'
import { counted } from '@/study/shown'

defineProps<{ page: CodebookPage }>()
</script>

<template>
  <section v-if="page.findings.length" class="findings" data-test="page-findings">
    <h3>{{ counted(page.findings.length, 'finding') }} on this tag</h3>
    <p v-for="finding in page.findings" :key="finding.check"><FindingText :finding="finding" /></p>
  </section>
</template>

<style scoped>
.findings {
  margin-top: 22px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
  font-size: 13px;
}

h3 {
  font-size: 13px;
  font-weight: 650;
  color: var(--beet);
  margin-bottom: 6px;
}

p {
  margin-bottom: 6px;
}
</style>
