<script setup lang="ts">
// Who may do what, what was done, and what runs now: for administrators.
import TopStrip from '@/shell/TopStrip.vue'
import EventsPart from './EventsPart.vue'
import GroupsPart from './GroupsPart.vue'
import PeoplePart from './PeoplePart.vue'
import RunningPart from './RunningPart.vue'

const props = defineProps<{ part: string }>()
const parts = [
  { name: 'people', caption: 'People', shows: PeoplePart },
  { name: 'groups', caption: 'Groups', shows: GroupsPart },
  { name: 'done', caption: 'What was done', shows: EventsPart },
  { name: 'running', caption: 'What runs now', shows: RunningPart },
]
</script>

<template>
  <div class="page">
    <TopStrip><span class="soft">Administration</span></TopStrip>
    <div class="contents">
      <nav aria-label="Administration">
        <router-link
          v-for="each in parts"
          :key="each.name"
          :to="{ name: 'administration', params: { part: each.name } }"
          :aria-current="each.name === props.part ? 'page' : undefined"
          >{{ each.caption }}</router-link
        >
      </nav>
      <main>
        <component :is="(parts.find((each) => each.name === props.part) ?? parts[0]!).shows" />
      </main>
    </div>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100vh;
}

.contents {
  flex: 1;
  display: grid;
  grid-template-columns: 170px minmax(0, 1fr);
  min-height: 0;
}

nav {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 22px 0 0 14px;
  border-right: 1px solid rgb(var(--v-theme-rule));
}

nav a {
  padding: 4px 8px;
  color: inherit;
  text-decoration: none;
}

nav a[aria-current] {
  font-weight: 600;
  background: rgb(var(--v-theme-hair));
}

main {
  padding: 22px 34px 60px;
  overflow: auto;
  background: rgb(var(--v-theme-surface));
}
</style>
