<script setup lang="ts">
import type { CodebookPage } from '@/api/client'
import FindingText from '@/parts/FindingText.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'

defineProps<{ page: CodebookPage }>()
const study = useStudy()
</script>

<template>
  <section v-if="page.findings.length" class="findings" data-test="page-findings">
    <h3>{{ counted(page.findings.length, 'finding') }} on this tag</h3>
    <p v-for="finding in page.findings" :key="finding.check">
      <FindingText :finding="finding" />
      <router-link v-if="finding.leads" class="act" data-test="see-records" :to="{ name: 'records', params: { study: study.id }, query: { variable: finding.variable, check: finding.check } }">see the records</router-link>
    </p>
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

.act {
  margin-left: 6px;
}
</style>
