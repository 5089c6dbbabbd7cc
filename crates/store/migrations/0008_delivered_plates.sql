-- The folder of the undistorted plate that goes along with a delivery; empty where none does.
ALTER TABLE deliveries ADD COLUMN plate TEXT NOT NULL DEFAULT '';
