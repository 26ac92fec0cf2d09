<script setup lang="ts">
/** What a finding says about its variable, and of which entries. */
import { computed } from 'vue'

import type { Finding } from '@/api/client'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ finding: Finding; named?: boolean }>()
const study = useStudy()
const name = computed(() => (props.finding.of_records ? 'Records' : (study.byId.get(props.finding.variable)?.name ?? '')))
const evidence = computed(() => {
  const shown = props.finding.evidence.slice(0, 5).map((each) => `“${each.entry}”${each.count ? ` ×${count(each.count)}` : ''}`)
  const more = props.finding.evidence_count - shown.length
  return shown.join(', ') + (more > 0 ? `, ${count(more)} more` : '')
})
</script>

<template>
  <span>
    <b v-if="named" class="mono">{{ name }}</b> {{ finding.message }}<template v-if="evidence">: <span class="soft">{{ evidence }}</span></template>
  </span>
</template>
