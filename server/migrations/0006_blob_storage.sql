-- Sounds, images and models are compressed already or cannot be: trying costs time alone.
ALTER TABLE "blob_chunks" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;
