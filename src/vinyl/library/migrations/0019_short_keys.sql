-- Of places that are gone for long no times are kept, and of other things that they are gone is enough.
DELETE FROM value_time WHERE name <> 'deleted'
  AND gid IN (SELECT gid FROM value_time WHERE name = 'deleted')
  AND gid NOT IN (
    SELECT gid FROM crate_place UNION ALL SELECT gid FROM crate UNION ALL SELECT gid FROM cue
    UNION ALL SELECT gid FROM gig UNION ALL SELECT gid FROM play UNION ALL SELECT gid FROM tag
    UNION ALL SELECT gid FROM track UNION ALL SELECT gid FROM venue UNION ALL SELECT gid FROM tag_family
  );

-- Keys grew by each thing that was put at the end of a list: where they are long, all of the list are made anew.
UPDATE crate_place SET position = anew.position FROM (
  SELECT id, spread_key(row_number() OVER (PARTITION BY crate_id ORDER BY position, id),
                        count(*) OVER (PARTITION BY crate_id)) AS position FROM crate_place
  WHERE crate_id IN (SELECT crate_id FROM crate_place WHERE length(position) > 24)
) AS anew WHERE anew.id = crate_place.id;
UPDATE play SET position = anew.position FROM (
  SELECT id, spread_key(row_number() OVER (PARTITION BY gig_id ORDER BY position, id),
                        count(*) OVER (PARTITION BY gig_id)) AS position FROM play
  WHERE gig_id IN (SELECT gig_id FROM play WHERE length(position) > 24)
) AS anew WHERE anew.id = play.id;
UPDATE crate SET position = anew.position FROM (
  SELECT id, spread_key(row_number() OVER (ORDER BY position, id), count(*) OVER ()) AS position FROM crate
) AS anew WHERE anew.id = crate.id AND EXISTS (SELECT 1 FROM crate WHERE length(position) > 24);
