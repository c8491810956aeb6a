<script setup lang="ts">
// When something is to be done again and again: each day, on weekdays, or on a day of the month.
import type { Times } from '@/api/types'
import { DAYS, WEEKDAYS } from './times'

const times = defineModel<Times>({ required: true })
const RHYTHMS: { title: string; value: Times['every'] }[] = [
  { title: 'every day', value: 'day' },
  { title: 'on weekdays', value: 'week' },
  { title: 'each month', value: 'month' },
]

function change(changed: Partial<Times>): void {
  times.value = { ...times.value, ...changed }
}

function turn(weekday: number, isOn: boolean): void {
  const others = (times.value.weekdays ?? []).filter((each) => each !== weekday)
  change({ weekdays: isOn ? [...others, weekday].sort() : others })
}
</script>

<template>
  <div class="when">
    <v-select
      class="rhythm"
      label="When"
      :items="RHYTHMS"
      :model-value="times.every"
      @update:model-value="change({ every: $event })"
    />
    <v-select
      v-if="times.every === 'month'"
      class="rhythm"
      label="On"
      :items="DAYS"
      :model-value="times.day"
      @update:model-value="change({ day: $event })"
    />
    <v-text-field
      class="clock"
      label="At"
      type="time"
      required
      :model-value="times.at"
      @update:model-value="change({ at: $event })"
    />
  </div>
  <div v-if="times.every === 'week'" class="weekdays" role="group" aria-label="Weekdays">
    <label v-for="(name, number) in WEEKDAYS" :key="name">
      <input
        type="checkbox"
        :aria-label="name"
        :checked="times.weekdays?.includes(number)"
        @change="turn(number, ($event.target as HTMLInputElement).checked)"
      />
      {{ name.slice(0, 2) }}
    </label>
  </div>
</template>

<style scoped>
.when,
.weekdays {
  display: flex;
  gap: 12px;
}

.rhythm,
.clock {
  flex: 1;
}

.weekdays label {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
