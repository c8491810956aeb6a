<script setup lang="ts">
// Where something lies: one of the folders that the person may put things into, or a new one by its name.
import { computed } from 'vue'
import { useLibrary } from './library'

/** A folder's id, the name of one that is still to be made, or nothing for the outermost place. */
const place = defineModel<string | null>({ required: true })
const props = defineProps<{
  label?: string
  /** A folder that cannot be chosen, with all within it. */ without?: string
}>()
const library = useLibrary()
const before = place.value
const items = computed(() => {
  const path = library.paths.get(props.without ?? '')
  return (library.library?.folders ?? [])
    .filter(
      (folder) =>
        (library.canPut(folder.id) || folder.id === before) &&
        folder.id !== props.without &&
        !(path && library.paths.get(folder.id)!.startsWith(`${path} › `)),
    )
    .map((folder) => ({ title: library.paths.get(folder.id)!, value: folder.id }))
    .sort((one, other) => one.title.localeCompare(other.title))
})
const isNew = computed(
  () =>
    !!place.value?.trim() &&
    !items.value.some(
      (item) => item.value === place.value || item.title.toLowerCase() === place.value!.trim().toLowerCase(),
    ),
)
</script>

<template>
  <v-combobox
    v-model="place"
    :label="label ?? 'Folder'"
    :items="items"
    :return-object="false"
    clearable
    :hint="isNew ? 'A new folder is made.' : ''"
    persistent-hint
  />
</template>
