-- The folder of the undistorted plate that goes along with a delivery (empty where none does), and by how much its frames
-- are numbered higher than its files are.
ALTER TABLE deliveries ADD COLUMN plate TEXT NOT NULL DEFAULT '';
ALTER TABLE deliveries ADD COLUMN plate_by INTEGER NOT NULL DEFAULT 0;
