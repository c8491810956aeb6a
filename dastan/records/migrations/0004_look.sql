-- The look that a person's new analyses begin with, as the gesture that gives it.
ALTER TABLE people ADD COLUMN look TEXT;
