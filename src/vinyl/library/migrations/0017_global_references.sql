-- What rules, series, orders and deleted lists ask for, they name by its global id: the same in every library,
-- and pointed elsewhere when two things become one.
CREATE TEMP TABLE named AS SELECT json_object(
  'list', (SELECT json_group_object(id, gid) FROM crate),
  'tag', (SELECT json_group_object(id, gid) FROM tag),
  'backing', (SELECT json_group_object(id, gid) FROM backing),
  'venue', (SELECT json_group_object(id, gid) FROM venue),
  'family', (SELECT json_group_object(id, gid) FROM tag_family)) AS gids;
UPDATE crate SET rule = with_gids(rule, (SELECT gids FROM temp.named)) WHERE rule IS NOT NULL;
UPDATE crate SET series = with_gids(series, (SELECT gids FROM temp.named)) WHERE series IS NOT NULL;
UPDATE deleted_list SET document = with_gids(document, (SELECT gids FROM temp.named));
UPDATE destination SET told = with_gids(told, (SELECT gids FROM temp.named));
UPDATE crate SET divided_by = 'tags ' || coalesce((SELECT gid FROM tag_family WHERE id = CAST(substr(divided_by, 6) AS INTEGER)), '')
WHERE divided_by GLOB 'tags *';
UPDATE crate SET series_value = 'tag ' || coalesce((SELECT gid FROM tag WHERE id = CAST(substr(series_value, 5) AS INTEGER)), '')
WHERE series_value GLOB 'tag [0-9]*';
DROP TABLE named;
