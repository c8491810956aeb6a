<script setup lang="ts">
// That a model was proposed from its files, and how much of it nobody has confirmed.
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { later } from '@/shell/later'
import { useWorkspace } from './store'

const AssumedSlip = later(() => import('./AssumedSlip.vue'))

const workspace = useWorkspace()
const isOpen = ref(false)
/** Models whose line was put away, each with how much was assumed of it then. */
const away = useStorage<Record<string, number>>('dastan-assumed-seen', {})

const assumed = computed(() => workspace.catalogue?.assumed ?? [])
const unsure = computed(() => assumed.value.filter((each) => each.is_unsure).length)
const name = computed(() => workspace.catalogue?.name ?? '')
const isShown = computed(() => assumed.value.length > 0 && away.value[name.value] !== assumed.value.length)
const words = computed(() => {
  const things = assumed.value.length === 1 ? 'one thing was' : `${assumed.value.length} things were`
  const more = unsure.value
    ? `; ${unsure.value === 1 ? 'one of them' : `${unsure.value} of them`} may be meant otherwise`
    : ''
  return `This model was proposed from its files: ${things} taken to be so${more}.`
})

function putAway(): void {
  away.value = { ...away.value, [name.value]: assumed.value.length }
}
</script>

<template>
  <p v-if="isShown" class="assumed" role="status">
    <span class="soft">{{ words }}</span>
    <button type="button" class="plain-button look" @click="isOpen = true">Look at them</button>
    <button type="button" class="plain-button away" @click="putAway">put away</button>
  </p>
  <AssumedSlip
    v-if="isOpen"
    :assumed="assumed"
    :model="workspace.catalogue?.may_shape ? name : ''"
    @close="isOpen = false"
  />
</template>

<style scoped>
.assumed {
  margin: 0;
  padding: 3px 18px;
  font-size: 12px;
  background: rgb(var(--v-theme-tint));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.look {
  margin-left: 8px;
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
  text-underline-offset: 2px;
}

.away {
  margin-left: 12px;
  color: rgb(var(--v-theme-soft));
}

.away:hover {
  text-decoration: underline;
}
</style>
