-- Deliveries by recipes: which, which version of it, what it is called, the camera that it held (for what changes
-- with the next one), and what changed against the one before.
ALTER TABLE deliveries ADD COLUMN recipe INTEGER NOT NULL DEFAULT 0;
ALTER TABLE deliveries ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
ALTER TABLE deliveries ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE deliveries ADD COLUMN camera TEXT NOT NULL DEFAULT '';
ALTER TABLE deliveries ADD COLUMN changed TEXT NOT NULL DEFAULT '';
ALTER TABLE deliveries ADD COLUMN folder TEXT NOT NULL DEFAULT '';
ALTER TABLE deliveries ADD COLUMN made TEXT NOT NULL DEFAULT '';
-- What a job is about, where its kind does not say it all: the recipe of a delivery.
ALTER TABLE jobs ADD COLUMN about INTEGER NOT NULL DEFAULT 0;
