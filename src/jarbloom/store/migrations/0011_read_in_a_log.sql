-- A water of the house as a line of a tank's log read it: the revision stands as long as that entry does.
ALTER TABLE house_revision ADD COLUMN entry_id INTEGER REFERENCES entry (id);
