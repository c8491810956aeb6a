import { defineStore } from 'pinia'
import { POST, body } from '@/api/client'
import type { DraftedLayout } from '@/api/types'
import { usePanel } from '../panel'

/** A financial layout that is being made: it begins with what a hierarchy suggests, a copy of the model's layout, or one that was made here. */
export const useLaying = defineStore('laying', () =>
  usePanel<DraftedLayout>((document, { dimension, hierarchy }) =>
    dimension && hierarchy
      ? body(
          POST('/api/models/{model}/layouts/begin', {
            params: { path: { model: document.model } },
            body: { document, dimension, hierarchy },
          }),
        )
      : null,
  ),
)
