import { defineStore } from 'pinia'
import { POST, body } from '@/api/client'
import type { DraftedList } from '@/api/types'
import { usePanel } from '../panel'

/** A list of members that is being made: it begins with members that are meant, with what a hierarchy's limit shows, or with a list that is there. */
export const useListing = defineStore('listing', () =>
  usePanel<DraftedList>((document, thing) =>
    body(
      POST('/api/models/{model}/lists/begin', {
        params: { path: { model: document.model } },
        body: { document, thing },
      }),
    ),
  ),
)
