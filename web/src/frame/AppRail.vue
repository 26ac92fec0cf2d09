<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useStudy } from '@/study/store'
import { STOPS } from './stops'

const study = useStudy()
const route = useRoute()
/** Pages below a stop belong to it. */
const isOn = (stop: string): boolean => route.path.split('/')[3] === stop
const waiting = computed<Record<string, number>>(() => ({
  codebook: study.variables.filter((each) => each.proposed).length,
  checks: study.overview?.findings ?? 0,
}))
</script>

<template>
  <nav class="rail" aria-label="Stops">
    <router-link to="/" class="mark" aria-label="All studies" title="All studies">
      <svg viewBox="0 0 44 30" width="44" height="30" aria-hidden="true">
        <path d="M2 15 12 4h30v22H12Z" fill="#FBFAF4" />
        <circle cx="13" cy="15" r="2.4" fill="#24352C" />
        <text x="19" y="20.5" font-weight="800" font-size="14" fill="#2F6B4F" class="mono">RT</text>
      </svg>
    </router-link>
    <router-link
      v-for="(stop, number) in STOPS"
      :key="stop.name"
      :to="{ name: stop.name, params: { study: study.id } }"
      class="stop"
      :class="{ on: isOn(stop.name) }"
      active-class=""
      :title="`${stop.title} (Alt+${number + 1})`"
      :data-test="`stop-${stop.name}`"
    >
      <svg viewBox="0 0 22 22" aria-hidden="true"><path :d="stop.glyph" /></svg>
      <span>{{ stop.title }}</span>
      <b v-if="waiting[stop.name]" :aria-label="`${waiting[stop.name]} waiting`">{{ waiting[stop.name]! > 999 ? '999+' : waiting[stop.name] }}</b>
    </router-link>
  </nav>
</template>

<style scoped>
.rail {
  width: 76px;
  flex: none;
  background: rgb(var(--v-theme-rail));
  padding-top: 8px;
  overflow-y: auto;
  scrollbar-width: none;
}

.mark {
  display: block;
  width: 44px;
  height: 30px;
  margin: 6px auto 14px;
}

.stop {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  padding: 9px 0 8px;
  font-size: 12px;
  color: rgb(var(--v-theme-rail-text));
  text-decoration: none;
}

.stop svg {
  width: 22px;
  height: 22px;
  stroke: currentColor;
  fill: none;
  stroke-width: 1.7;
}

.stop.on {
  color: #fff;
  background: rgb(var(--v-theme-rail-on));
}

.stop.on::before {
  content: '';
  position: absolute;
  inset: 0 auto 0 0;
  width: 4px;
  background: var(--sun);
}

.stop b {
  position: absolute;
  right: 7px;
  top: 5px;
  font-size: 12px;
  font-weight: 650;
  background: var(--sun);
  color: #24352c;
  border-radius: 8px;
  padding: 0 5px;
  line-height: 15px;
}

/* Folded: the glyphs alone, with their words for whoever points at them or hears them. */
@media (max-width: 900px) {
  .rail {
    width: 48px;
  }

  .mark svg {
    width: 36px;
  }

  .mark {
    width: 36px;
    margin-bottom: 4px;
  }

  .stop {
    padding: 8px 0;
  }

  .stop span {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }

  .stop b {
    right: 1px;
    top: 1px;
  }
}

.stop:focus-visible,
.mark:focus-visible {
  outline-color: var(--sun);
  outline-offset: -3px;
}
</style>
