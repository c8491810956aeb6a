<script setup lang="ts">
// What is offered: each with what speaks for it, to be taken or refused, or all at once.
import type { ModelOffer } from '@/api/types'
import { useShaping } from '../shaping'

defineProps<{ offers: readonly ModelOffer[]; title: string }>()
const emit = defineEmits<{ take: [offer: ModelOffer] }>()
const shaping = useShaping()
</script>

<template>
  <section :aria-label="title">
    <div class="row head">
      <h2>{{ title }}</h2>
      <button v-if="offers.length > 1" type="button" class="plain-button go" @click="shaping.takeAll(offers)">
        Make all {{ offers.length }}
      </button>
    </div>
    <div v-for="each in offers" :key="each.key" class="offer">
      <p>{{ each.says }}</p>
      <p v-if="each.because" class="soft small">{{ each.because }}</p>
      <div class="row">
        <button type="button" class="plain-button go" :aria-label="`Make it: ${each.says}`" @click="emit('take', each)">
          Make it
        </button>
        <button
          type="button"
          class="plain-button not"
          :aria-label="`Not that: ${each.says}`"
          @click="shaping.refuse(each)"
        >
          Not that
        </button>
      </div>
    </div>
  </section>
</template>

<style scoped src="../fields.css" />
<style scoped>
.row {
  display: flex;
  gap: 14px;
  align-items: baseline;
}

.head {
  justify-content: space-between;
}

h2 {
  margin: 0;
  font: 600 18px/24px var(--serif);
}

p {
  margin: 0;
  overflow-wrap: anywhere;
}

.small {
  font-size: 12px;
  line-height: 17px;
}

.offer {
  padding: 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}
</style>
