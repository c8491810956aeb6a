<script setup lang="ts">
import DragThing from '../DragThing.vue'
import LevelDots from '../LevelDots.vue'
import { wayThing } from '../things'

defineProps<{ caption: string; steps: number }>()
</script>

<template>
  <div class="entry" :title="`A way down that was made here: members of each step open into the next. ${caption}`">
    <DragThing class="grow" data-entry="thing" tabindex="-1" :thing="wayThing(caption)">
      <span class="caption">{{ caption }}</span><LevelDots :shown="0" :all="steps" />
    </DragThing>
  </div>
</template>

<style scoped src="./entry.css" />
