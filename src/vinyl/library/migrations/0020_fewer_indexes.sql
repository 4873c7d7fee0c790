-- Words are found by the table of words; an index of whole texts only made writing slower.
DROP INDEX IF EXISTS shelf_search;
