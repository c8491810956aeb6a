-- When an analysis was removed: it can be brought back for a while. Until then nobody sees it but its owner.
ALTER TABLE analyses ADD COLUMN removed_at TEXT;
