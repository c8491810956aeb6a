<script setup lang="ts">
// From when to when a calendar runs, and when its financial year starts.
import { ref, watch } from 'vue'
import type { ModelTable } from '@/api/types'
import { useShaping } from '../shaping'

const props = defineProps<{ table: string; calendar: NonNullable<ModelTable['calendar']> }>()
const shaping = useShaping()
const MONTHS = Array.from({ length: 12 }, (_, at) => new Date(2024, at, 1).toLocaleString('en-GB', { month: 'long' }))
const form = ref({ first: '', last: '', starts: 1 })
watch(
  () => props.calendar,
  (own) => (form.value = { first: own.first ?? '', last: own.last ?? '', starts: own.financial_year_starts ?? 1 }),
  { immediate: true },
)

function put(): void {
  const calendar = {
    first: form.value.first || null,
    last: form.value.last || null,
    financial_year_starts: form.value.starts,
  }
  void shaping.act({ kind: 'set_calendar', table: props.table, calendar })
}
</script>

<template>
  <p class="soft">
    It is made, day by day, and read from no file. Left open, it runs over the whole years of the dates that point at
    it.
  </p>
  <label><span class="soft">from</span><input v-model="form.first" class="field" type="date" @change="put" /></label>
  <label><span class="soft">to</span><input v-model="form.last" class="field" type="date" @change="put" /></label>
  <label
    ><span class="soft">financial year from</span>
    <select v-model.number="form.starts" class="field" @change="put">
      <option v-for="(each, at) in MONTHS" :key="each" :value="at + 1">{{ each }}</option>
    </select>
  </label>
</template>

<style scoped src="../fields.css" />
<style scoped>
p {
  margin: 0;
}

label {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
</style>
