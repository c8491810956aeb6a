<script setup lang="ts">
// After going into a member: the path above it, each part of which leads back.
import { useWorkspace } from './store'

const workspace = useWorkspace()
</script>

<template>
  <nav
    v-for="way in workspace.shown?.ways_back ?? []"
    :key="`${way.dimension}/${way.hierarchy}`"
    class="way"
    aria-label="The way back"
  >
    <template v-for="(caption, depth) in way.captions" :key="depth">
      <span v-if="depth" class="soft" aria-hidden="true">›</span>
      <button
        v-if="depth < way.captions.length - 1"
        type="button"
        class="plain-button back"
        :title="`Come back to ${caption}`"
        @click="
          workspace.act({
            kind: 'go_into',
            dimension: way.dimension,
            hierarchy: way.hierarchy,
            path: way.path.slice(0, depth),
          })
        "
      >
        {{ caption }}
      </button>
      <strong v-else>{{ caption }}</strong>
    </template>
  </nav>
</template>

<style scoped>
.way {
  display: flex;
  gap: 6px;
  padding: 3px 18px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.back {
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>
