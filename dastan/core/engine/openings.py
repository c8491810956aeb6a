"""What an opening of the document means for the members that there are."""

from __future__ import annotations

import numpy as np

from dastan.core.analysis.document import Opening
from dastan.core.model.members import HierarchyMembers


def open_masks(opening: Opening, members: HierarchyMembers) -> list[np.ndarray]:
    """Per level `(n_members,) bool`: which members are open and have something below them.

    A path that no member has is passed over: it waits in the document.
    """
    masks = [np.full(len(level), level.name in opening.levels) for level in members.levels]
    for paths, value in ((opening.closed, False), (opening.open, True)):
        for path in paths:
            code = members.find(path)
            if code is not None:
                masks[len(path) - 1][code] = value
    for mask, level in zip(masks, members.levels, strict=True):
        mask &= level.can_open
    return masks
