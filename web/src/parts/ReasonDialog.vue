<script setup lang="ts">
/** Asks for a reason in words. */
import { ref, watch } from 'vue'

const props = defineProps<{ modelValue: boolean; title: string; hint: string }>()
const emit = defineEmits<{ 'update:modelValue': [open: boolean]; given: [reason: string] }>()
const reason = ref('')
watch(() => props.modelValue, (open) => open && (reason.value = ''))

function give(): void {
  if (!reason.value.trim()) return
  emit('given', reason.value.trim())
  emit('update:modelValue', false)
}
</script>

<template>
  <v-dialog :model-value="modelValue" max-width="440" @update:model-value="emit('update:modelValue', $event)">
    <form class="panel dialog" @submit.prevent="give">
      <h2>{{ title }}</h2>
      <p class="soft">{{ hint }}</p>
      <v-text-field v-model="reason" autofocus label="Reason" data-test="reason" />
      <div class="foot">
        <v-btn @click="emit('update:modelValue', false)">Leave it</v-btn>
        <v-btn type="submit" variant="flat" color="primary" :disabled="!reason.trim()" data-test="give-reason">
          Keep as is
        </v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
p {
  margin: 4px 0 14px;
}
</style>
