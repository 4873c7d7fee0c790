-- A home as the version before schema 4 left it: four tracks with every kind of work on them.
BEGIN TRANSACTION;
CREATE TABLE analysis_queue (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'paused', 'failed')),
  attempts INTEGER NOT NULL DEFAULT 0,
  error TEXT
) STRICT;
INSERT INTO "analysis_queue" VALUES(4,'waiting',0,NULL);
CREATE TABLE choice (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO "choice" VALUES('finish rules','{"grid": "locked", "key": false, "cues": 2, "roles": ["in"], "stars": true}');
CREATE TABLE crate (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) > 0),
  position REAL NOT NULL,
  created_at TEXT NOT NULL
) STRICT;
INSERT INTO "crate" VALUES(1,'Friday',2.0,'2026-11-25T11:26:19.635+00:00');
INSERT INTO "crate" VALUES(2,'Late',1.0,'2026-11-25T11:26:19.636+00:00');
CREATE TABLE crate_track (
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position REAL NOT NULL,
  PRIMARY KEY (crate_id, track_id)
) STRICT, WITHOUT ROWID;
INSERT INTO "crate_track" VALUES(1,1,1.0);
INSERT INTO "crate_track" VALUES(1,2,2.0);
INSERT INTO "crate_track" VALUES(1,3,0.0);
INSERT INTO "crate_track" VALUES(2,4,0.0);
CREATE TABLE cue (
  id INTEGER PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  position_s REAL NOT NULL CHECK (position_s >= 0),
  length_s REAL CHECK (length_s > 0),
  label TEXT NOT NULL DEFAULT '',
  role TEXT CHECK (role IN ('in', 'main', 'out')),
  colour TEXT NOT NULL,
  pad INTEGER CHECK (pad BETWEEN 1 AND 8),
  engages INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO "cue" VALUES(1,1,2.0,NULL,'verse','main','blue',3,0);
INSERT INTO "cue" VALUES(2,1,4.0,2.0,'loop',NULL,'ochre',NULL,1);
CREATE TABLE cue_colour (
  colour TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  sign TEXT NOT NULL,
  -- As #rrggbb, where the user has chosen one; else it follows the look.
  hex TEXT,
  place INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO "cue_colour" VALUES('blue','vocals','V','#3366aa',2);
INSERT INTO "cue_colour" VALUES('green','green','✚',NULL,4);
INSERT INTO "cue_colour" VALUES('ink','ink','★',NULL,5);
INSERT INTO "cue_colour" VALUES('ochre','ochre','◆',NULL,3);
INSERT INTO "cue_colour" VALUES('vermilion','vermilion','■',NULL,0);
INSERT INTO "cue_colour" VALUES('violet','violet','▲',NULL,1);
CREATE TABLE cue_template (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) > 0),
  cues TEXT NOT NULL
) STRICT;
INSERT INTO "cue_template" VALUES(1,'Before each drop','[{"place": "drop", "offset_beats": -32, "label": "before the drop", "colour": "blue"}]');
INSERT INTO "cue_template" VALUES(2,'Way out','[{"place": "out", "offset_beats": 0, "length_beats": 16, "label": "hold", "colour": "ochre", "engages": true}]');
INSERT INTO "cue_template" VALUES(3,'Mine','[{"place": "main", "offset_beats": -8.0, "length_beats": null, "label": "ready", "role": null, "colour": "blue", "pad": null, "engages": false}]');
CREATE TABLE hand_grid (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  bpm REAL NOT NULL,
  anchors TEXT NOT NULL,
  beats_per_bar INTEGER NOT NULL
) STRICT;
INSERT INTO "hand_grid" VALUES(1,100.0,'[{"time": 0.25, "beat": 0.0, "bpm": 100.0}]',4);
CREATE TABLE hand_rating (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  stars INTEGER NOT NULL CHECK (stars BETWEEN 0 AND 5)
) STRICT;
INSERT INTO "hand_rating" VALUES(2,5);
CREATE TABLE import_file (
  run_id INTEGER NOT NULL REFERENCES import_run (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  outcome TEXT NOT NULL CHECK (outcome IN ('added', 'already here', 'not audio', 'broken')),
  reason TEXT NOT NULL,
  track_id INTEGER REFERENCES track (id) ON DELETE SET NULL,
  PRIMARY KEY (run_id, path)
) STRICT, WITHOUT ROWID;
INSERT INTO "import_file" VALUES(1,'/music/Anchor.mp3','added','',1);
INSERT INTO "import_file" VALUES(1,'/music/Buoy.mp3','added','',2);
INSERT INTO "import_file" VALUES(1,'/music/Cleat.mp3','added','',3);
INSERT INTO "import_file" VALUES(1,'/music/Dock.mp3','added','',4);
INSERT INTO "import_file" VALUES(1,'/music/x.jpg','not audio','no',NULL);
CREATE TABLE import_run (
  id INTEGER PRIMARY KEY,
  folder TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'cancelled', 'failed')),
  total INTEGER,
  error TEXT,
  started_at TEXT NOT NULL,
  finished_at TEXT
) STRICT;
INSERT INTO "import_run" VALUES(1,'/music','done',5,NULL,'2026-11-25T11:26:19.632+00:00','2026-11-25T11:26:19.632+00:00');
CREATE TABLE key_place (key TEXT PRIMARY KEY, place INTEGER NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO "key_place" VALUES('A major',6);
INSERT INTO "key_place" VALUES('A minor',1);
INSERT INTO "key_place" VALUES('Ab major',16);
INSERT INTO "key_place" VALUES('Ab minor',11);
INSERT INTO "key_place" VALUES('B major',10);
INSERT INTO "key_place" VALUES('B minor',5);
INSERT INTO "key_place" VALUES('Bb major',20);
INSERT INTO "key_place" VALUES('Bb minor',15);
INSERT INTO "key_place" VALUES('C major',0);
INSERT INTO "key_place" VALUES('C minor',19);
INSERT INTO "key_place" VALUES('D major',4);
INSERT INTO "key_place" VALUES('D minor',23);
INSERT INTO "key_place" VALUES('Db major',14);
INSERT INTO "key_place" VALUES('Db minor',9);
INSERT INTO "key_place" VALUES('E major',8);
INSERT INTO "key_place" VALUES('E minor',3);
INSERT INTO "key_place" VALUES('Eb major',18);
INSERT INTO "key_place" VALUES('Eb minor',13);
INSERT INTO "key_place" VALUES('F major',22);
INSERT INTO "key_place" VALUES('F minor',17);
INSERT INTO "key_place" VALUES('F# major',12);
INSERT INTO "key_place" VALUES('F# minor',7);
INSERT INTO "key_place" VALUES('G major',2);
INSERT INTO "key_place" VALUES('G minor',21);
CREATE TABLE pack_run (
  id INTEGER PRIMARY KEY,
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('running', 'done', 'cancelled', 'failed')),
  error TEXT,
  summary TEXT,
  started_at TEXT NOT NULL,
  finished_at TEXT
) STRICT;
INSERT INTO "pack_run" VALUES(1,1,'done',NULL,'{"tracks": 3, "crates": 1, "written": 3, "removed": 0}','2026-11-25T11:26:19.637+00:00','2026-11-25T11:26:19.637+00:00');
CREATE TABLE route (
  id INTEGER PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  name TEXT NOT NULL CHECK (length(name) > 0),
  jumps TEXT NOT NULL
) STRICT;
INSERT INTO "route" VALUES(1,2,'Short','[[5.0, 12.0]]');
CREATE TABLE stick (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  folder TEXT NOT NULL UNIQUE,
  profile TEXT NOT NULL
) STRICT;
INSERT INTO "stick" VALUES(1,'Stick','/sticks/Stick','Quay One');
CREATE TABLE stick_crate (
  stick_id INTEGER NOT NULL REFERENCES stick (id) ON DELETE CASCADE,
  crate_id INTEGER NOT NULL REFERENCES crate (id) ON DELETE CASCADE,
  PRIMARY KEY (stick_id, crate_id)
) STRICT, WITHOUT ROWID;
INSERT INTO "stick_crate" VALUES(1,1);
CREATE TABLE track (
  id INTEGER PRIMARY KEY,
  path TEXT NOT NULL UNIQUE,
  size_bytes INTEGER NOT NULL,
  modified_ns INTEGER NOT NULL,
  audio_hash TEXT NOT NULL,
  codec TEXT NOT NULL,
  rate_hz INTEGER NOT NULL,
  channels INTEGER NOT NULL,
  bit_rate INTEGER,
  trimmed_samples INTEGER NOT NULL DEFAULT 0,
  duration_s REAL NOT NULL,
  title TEXT NOT NULL,
  artist TEXT NOT NULL,
  album TEXT NOT NULL,
  genre TEXT NOT NULL,
  label TEXT NOT NULL,
  comment TEXT NOT NULL,
  year INTEGER,
  file_key TEXT NOT NULL,
  file_bpm REAL,
  file_rating INTEGER NOT NULL DEFAULT 0,
  has_picture INTEGER NOT NULL DEFAULT 0,
  search_text TEXT NOT NULL,
  away INTEGER NOT NULL DEFAULT 0,
  added_at TEXT NOT NULL
) STRICT;
INSERT INTO "track" VALUES(1,'/music/Anchor.mp3',1,1,'Anchor','mp3',44100,2,192000,1105,20.0,'Anchor','Kelp Union','Moorings','House','Slipway','loud',2024,'',NULL,3,0,'anchor kelp union moorings house slipway',0,'2026-11-25T11:26:19.630+00:00');
INSERT INTO "track" VALUES(2,'/music/Buoy.mp3',1,1,'Buoy','mp3',44100,2,192000,1105,20.0,'Buoy','Kelp Union','Moorings','House','Slipway','loud',2024,'',NULL,3,0,'buoy kelp union moorings house slipway',0,'2026-11-25T11:26:19.631+00:00');
INSERT INTO "track" VALUES(3,'/music/Cleat.mp3',1,1,'Cleat','mp3',44100,2,192000,1105,20.0,'Cleat','Kelp Union','Moorings','House','Slipway','loud',2024,'',NULL,0,0,'cleat kelp union moorings house slipway',0,'2026-11-25T11:26:19.631+00:00');
INSERT INTO "track" VALUES(4,'/music/Dock.mp3',1,1,'Dock','mp3',44100,2,192000,1105,20.0,'Dock','Kelp Union','Moorings','House','Slipway','loud',2024,'A minor',99.0,0,0,'dock kelp union moorings house slipway',0,'2026-11-25T11:26:19.631+00:00');
CREATE TABLE track_analysis (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  bpm REAL,
  anchors TEXT,
  beats_per_bar INTEGER,
  key TEXT,
  key_confidence REAL NOT NULL,
  second_key TEXT,
  tuning_cents REAL NOT NULL,
  lufs REAL,
  grid_doubt REAL NOT NULL,
  grid_reasons TEXT NOT NULL,
  analysed_at TEXT NOT NULL
, range_lu REAL, true_peak_db REAL, second_from_s REAL, runner_up_key TEXT, energy INTEGER, energy_reason TEXT NOT NULL DEFAULT '', phrase_s REAL, sections TEXT NOT NULL DEFAULT '[]', cue_proposals TEXT NOT NULL DEFAULT '[]') STRICT;
INSERT INTO "track_analysis" VALUES(1,4,1.23998841173284077396e+02,'[{"time": 0.29960339785016804, "beat": 0.0, "bpm": 123.99884117328408}]',4,'F major',9.26584872852496244099e-01,NULL,-1.13290408626198768615e+00,-1.3745959465947311884e+01,0.0,'[]','2026-11-25T11:26:19.631+00:00',0.601869199985769,4.88482906090648594243e+00,NULL,'A minor',41,'thin',2.99603397850168040594e-01,'[{"start_s": 0.29960339785016804, "end_s": 19.654622987477488, "label": "main"}]','[{"time": 0.29960339785016804, "role": "main", "label": "main"}, {"time": 0.29960339785016804, "role": "out", "label": "out"}]');
INSERT INTO "track_analysis" VALUES(2,4,1.23998841173284077396e+02,'[{"time": 0.29960339785016804, "beat": 0.0, "bpm": 123.99884117328408}]',4,'F major',9.26584872852496244099e-01,NULL,-1.13290408626198768615e+00,-1.3745959465947311884e+01,0.0,'[]','2026-11-25T11:26:19.632+00:00',0.601869199985769,4.88482906090648594243e+00,NULL,'A minor',41,'thin',2.99603397850168040594e-01,'[{"start_s": 0.29960339785016804, "end_s": 19.654622987477488, "label": "main"}]','[{"time": 0.29960339785016804, "role": "main", "label": "main"}, {"time": 0.29960339785016804, "role": "out", "label": "out"}]');
INSERT INTO "track_analysis" VALUES(3,4,1.23998841173284077396e+02,'[{"time": 0.29960339785016804, "beat": 0.0, "bpm": 123.99884117328408}]',4,'F major',9.26584872852496244099e-01,NULL,-1.13290408626198768615e+00,-1.3745959465947311884e+01,0.0,'[]','2026-11-25T11:26:19.632+00:00',0.601869199985769,4.88482906090648594243e+00,NULL,'A minor',41,'thin',2.99603397850168040594e-01,'[{"start_s": 0.29960339785016804, "end_s": 19.654622987477488, "label": "main"}]','[{"time": 0.29960339785016804, "role": "main", "label": "main"}, {"time": 0.29960339785016804, "role": "out", "label": "out"}]');
CREATE TABLE track_copy (
  path TEXT PRIMARY KEY,
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  size_bytes INTEGER NOT NULL,
  modified_ns INTEGER NOT NULL,
  found_at TEXT NOT NULL
) STRICT, WITHOUT ROWID;
INSERT INTO "track_copy" VALUES('/music/Anchor 1.mp3',1,1,1,'2026-11-25T11:26:19.632+00:00');
CREATE TABLE track_likeness (
  track_id INTEGER PRIMARY KEY REFERENCES track (id) ON DELETE CASCADE,
  descriptor BLOB NOT NULL,
  fingerprint BLOB NOT NULL
) STRICT;
INSERT INTO "track_likeness" VALUES(1,X'9058E2BDD88034BE329FDDBD70D50CBE0ACEFDBD5175F6BD865E8FBDCEE06A3DB7F4D03DAE6C123E7EEB113EAAAFB03D560EE23DAE44EB3DB2E3E73DC747F13D151DDD3D98FB963DFAA95A3CBFF03ABD3EF9ACBDD6C299BD051A82BD0D155ABD72B83EBDE083D7BCBF782ABC8FA7C23B9A55B03C2A742C3D9512CF3DACBC24BE8A23DE3DE768E63B248D543DF0AEDABD943386BD259A04BE3B8A0BBEC7CC09BEDD522EBEAEFC52BEBBD546BE9F721FBE907818BE192C35BEDC1525BEFBF100BE9CA36CBD6894F73C7506A33D7CFAD83D9419063EA3F3153EED7A1C3E42BF4B3E60FC613EA8267A3E9C67843E0B37963E65B41F3F5A9490BD170E74BD5423BABD6E7EDD3D4E81BABD464C70BD245CBABDE312D73DE489BABDE3F876BDBDA5B9BDEA08DA3D527FB8BD40F871BD8E53B9BDD8111C3EC1AB22BE0CB4CD3D4FFF30BE2B398E3EBE3835BEFDE4C43D74FE2BBE8309893E4BC32CBEEBFCBA3D34CA26BE9377873E4ABF29BEC4D6AD3DAA0D25BEF1D6DCBD87B0B83DC2D7DEBD47C6E0BDCF16C2BD1784153F47C6E0BDDE7EDEBD625564BDD277DFBDB46C723E3737DABDF088AC3E98DC25BE037CE93C2F9936BE54D28A3DCFDC833EC5C644BE3C810ABE00B1A9BD4657C13E6BF206BEFF893EBE',X'2FED58DE2BAADA4895324D1395124D1394124D332A1659762A9651762A96107667CDB6AD6ACDB6AD224DA28D903229529032295265CDB6AD6ECD96AD6ACDD68D9032495290324952651CC4A96F4D96AD6A4D96AC90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B04966E27DD94952ADD949D9042474190226362D0224B6225DD9C9D2ADD9C9D2ACD9A84D0226B62D0226B62255DB49D2A5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B195D5562A94DD56679CB6566FCDB6AD6ACDB6AD90222952903229529132295267CD96AD6ACD96AD82C140509032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52229A1456A2AA940622BA9DB66BB6E4A26D36E27DD942C2FDD949D2ACDB48D90226762D0224B62D12249722FDD9C9D2ADD989D90224B62D0226B62D1226B62275DB49D2A5DB49D22C9A69890A24362D0224362951845912459449120914592BA95D5562A92595667CDB6AC6ECDB6AD6A4DB6AD90322952903229525512A5226FCD96AD6ACDD6AD9032495290324952913249526F4D96AD6A4D96AD90C3424890B2495290B24952D52A29A944622BA940622B6ADA66BB6E4A22536E27DD94952EDD949D2ACDB48D90226762D0224B62251C88942FDD9C9D2ADD9895D0226B62D0226B625122294A2F5DB49D2A5DB49D9082674290A24B62D02247B39559449120114591B1915556BA95D5562A94995667CDB6AD6ACDB6AD2A4DB285903229529032295265CCB6AD6ECD96AD6ACDD68D9032495290324952651CC4A86F4D96AD6A4D96AD90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B24966E27DD94952ADD949D9043464190224362D0224B6225DD9C9D2ADD9C9D2ACD9884D0226B62D0226B62255DB49D2E5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B595D5562A94DD56639CB65667CDB6AD6ACDB6AD90222953903229529132295267CD96AD6ACD96AD82C142009032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52269A1C56A2AA940622BA9DB66BB6E4A26D36E279D946C2FDD949D2ACD948D90226762D0226B62D122497227DD9C9D2ADD989D90224B62D0226B62D0226B62275DB49D2A5DB49D22C9A69890A24362D0224362502826912AC9A6902AC9A49920D9A4D920C9A4D8');
INSERT INTO "track_likeness" VALUES(2,X'9058E2BDD88034BE329FDDBD70D50CBE0ACEFDBD5175F6BD865E8FBDCEE06A3DB7F4D03DAE6C123E7EEB113EAAAFB03D560EE23DAE44EB3DB2E3E73DC747F13D151DDD3D98FB963DFAA95A3CBFF03ABD3EF9ACBDD6C299BD051A82BD0D155ABD72B83EBDE083D7BCBF782ABC8FA7C23B9A55B03C2A742C3D9512CF3DACBC24BE8A23DE3DE768E63B248D543DF0AEDABD943386BD259A04BE3B8A0BBEC7CC09BEDD522EBEAEFC52BEBBD546BE9F721FBE907818BE192C35BEDC1525BEFBF100BE9CA36CBD6894F73C7506A33D7CFAD83D9419063EA3F3153EED7A1C3E42BF4B3E60FC613EA8267A3E9C67843E0B37963E65B41F3F5A9490BD170E74BD5423BABD6E7EDD3D4E81BABD464C70BD245CBABDE312D73DE489BABDE3F876BDBDA5B9BDEA08DA3D527FB8BD40F871BD8E53B9BDD8111C3EC1AB22BE0CB4CD3D4FFF30BE2B398E3EBE3835BEFDE4C43D74FE2BBE8309893E4BC32CBEEBFCBA3D34CA26BE9377873E4ABF29BEC4D6AD3DAA0D25BEF1D6DCBD87B0B83DC2D7DEBD47C6E0BDCF16C2BD1784153F47C6E0BDDE7EDEBD625564BDD277DFBDB46C723E3737DABDF088AC3E98DC25BE037CE93C2F9936BE54D28A3DCFDC833EC5C644BE3C810ABE00B1A9BD4657C13E6BF206BEFF893EBE',X'2FED58DE2BAADA4895324D1395124D1394124D332A1659762A9651762A96107667CDB6AD6ACDB6AD224DA28D903229529032295265CDB6AD6ECD96AD6ACDD68D9032495290324952651CC4A96F4D96AD6A4D96AC90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B04966E27DD94952ADD949D9042474190226362D0224B6225DD9C9D2ADD9C9D2ACD9A84D0226B62D0226B62255DB49D2A5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B195D5562A94DD56679CB6566FCDB6AD6ACDB6AD90222952903229529132295267CD96AD6ACD96AD82C140509032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52229A1456A2AA940622BA9DB66BB6E4A26D36E27DD942C2FDD949D2ACDB48D90226762D0224B62D12249722FDD9C9D2ADD989D90224B62D0226B62D1226B62275DB49D2A5DB49D22C9A69890A24362D0224362951845912459449120914592BA95D5562A92595667CDB6AC6ECDB6AD6A4DB6AD90322952903229525512A5226FCD96AD6ACDD6AD9032495290324952913249526F4D96AD6A4D96AD90C3424890B2495290B24952D52A29A944622BA940622B6ADA66BB6E4A22536E27DD94952EDD949D2ACDB48D90226762D0224B62251C88942FDD9C9D2ADD9895D0226B62D0226B625122294A2F5DB49D2A5DB49D9082674290A24B62D02247B39559449120114591B1915556BA95D5562A94995667CDB6AD6ACDB6AD2A4DB285903229529032295265CCB6AD6ECD96AD6ACDD68D9032495290324952651CC4A86F4D96AD6A4D96AD90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B24966E27DD94952ADD949D9043464190224362D0224B6225DD9C9D2ADD9C9D2ACD9884D0226B62D0226B62255DB49D2E5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B595D5562A94DD56639CB65667CDB6AD6ACDB6AD90222953903229529132295267CD96AD6ACD96AD82C142009032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52269A1C56A2AA940622BA9DB66BB6E4A26D36E279D946C2FDD949D2ACD948D90226762D0226B62D122497227DD9C9D2ADD989D90224B62D0226B62D0226B62275DB49D2A5DB49D22C9A69890A24362D0224362502826912AC9A6902AC9A49920D9A4D920C9A4D8');
INSERT INTO "track_likeness" VALUES(3,X'9058E2BDD88034BE329FDDBD70D50CBE0ACEFDBD5175F6BD865E8FBDCEE06A3DB7F4D03DAE6C123E7EEB113EAAAFB03D560EE23DAE44EB3DB2E3E73DC747F13D151DDD3D98FB963DFAA95A3CBFF03ABD3EF9ACBDD6C299BD051A82BD0D155ABD72B83EBDE083D7BCBF782ABC8FA7C23B9A55B03C2A742C3D9512CF3DACBC24BE8A23DE3DE768E63B248D543DF0AEDABD943386BD259A04BE3B8A0BBEC7CC09BEDD522EBEAEFC52BEBBD546BE9F721FBE907818BE192C35BEDC1525BEFBF100BE9CA36CBD6894F73C7506A33D7CFAD83D9419063EA3F3153EED7A1C3E42BF4B3E60FC613EA8267A3E9C67843E0B37963E65B41F3F5A9490BD170E74BD5423BABD6E7EDD3D4E81BABD464C70BD245CBABDE312D73DE489BABDE3F876BDBDA5B9BDEA08DA3D527FB8BD40F871BD8E53B9BDD8111C3EC1AB22BE0CB4CD3D4FFF30BE2B398E3EBE3835BEFDE4C43D74FE2BBE8309893E4BC32CBEEBFCBA3D34CA26BE9377873E4ABF29BEC4D6AD3DAA0D25BEF1D6DCBD87B0B83DC2D7DEBD47C6E0BDCF16C2BD1784153F47C6E0BDDE7EDEBD625564BDD277DFBDB46C723E3737DABDF088AC3E98DC25BE037CE93C2F9936BE54D28A3DCFDC833EC5C644BE3C810ABE00B1A9BD4657C13E6BF206BEFF893EBE',X'2FED58DE2BAADA4895324D1395124D1394124D332A1659762A9651762A96107667CDB6AD6ACDB6AD224DA28D903229529032295265CDB6AD6ECD96AD6ACDD68D9032495290324952651CC4A96F4D96AD6A4D96AC90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B04966E27DD94952ADD949D9042474190226362D0224B6225DD9C9D2ADD9C9D2ACD9A84D0226B62D0226B62255DB49D2A5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B195D5562A94DD56679CB6566FCDB6AD6ACDB6AD90222952903229529132295267CD96AD6ACD96AD82C140509032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52229A1456A2AA940622BA9DB66BB6E4A26D36E27DD942C2FDD949D2ACDB48D90226762D0224B62D12249722FDD9C9D2ADD989D90224B62D0226B62D1226B62275DB49D2A5DB49D22C9A69890A24362D0224362951845912459449120914592BA95D5562A92595667CDB6AC6ECDB6AD6A4DB6AD90322952903229525512A5226FCD96AD6ACDD6AD9032495290324952913249526F4D96AD6A4D96AD90C3424890B2495290B24952D52A29A944622BA940622B6ADA66BB6E4A22536E27DD94952EDD949D2ACDB48D90226762D0224B62251C88942FDD9C9D2ADD9895D0226B62D0226B625122294A2F5DB49D2A5DB49D9082674290A24B62D02247B39559449120114591B1915556BA95D5562A94995667CDB6AD6ACDB6AD2A4DB285903229529032295265CCB6AD6ECD96AD6ACDD68D9032495290324952651CC4A86F4D96AD6A4D96AD90A2415290B24952903249A3D56A2AA940622BA9D562BB6A4A66BB6E6B24966E27DD94952ADD949D9043464190224362D0224B6225DD9C9D2ADD9C9D2ACD9884D0226B62D0226B62255DB49D2E5DB49D2ADDB49C90A24362D0224362D1224591B559449120914591B595D5562A94DD56639CB65667CDB6AD6ACDB6AD90222953903229529132295267CD96AD6ACD96AD82C142009032495290324952654D96AD6A4D96AD2A4D968C90B2495290B24952D52269A1C56A2AA940622BA9DB66BB6E4A26D36E279D946C2FDD949D2ACD948D90226762D0226B62D122497227DD9C9D2ADD989D90224B62D0226B62D0226B62275DB49D2A5DB49D22C9A69890A24362D0224362502826912AC9A6902AC9A49920D9A4D920C9A4D8');
CREATE TABLE track_lock (
  track_id INTEGER NOT NULL REFERENCES track (id) ON DELETE CASCADE,
  part TEXT NOT NULL CHECK (part IN ('grid', 'cues', 'key', 'tags')),
  PRIMARY KEY (track_id, part)
) STRICT, WITHOUT ROWID;
INSERT INTO "track_lock" VALUES(1,'grid');
INSERT INTO "track_lock" VALUES(2,'key');
INSERT INTO "track_lock" VALUES(2,'tags');
CREATE TABLE undo_entry (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES undo_step (id) ON DELETE CASCADE,
  sql TEXT NOT NULL
) STRICT;
INSERT INTO "undo_entry" VALUES(1,1,'DELETE FROM hand_grid WHERE track_id=1');
INSERT INTO "undo_entry" VALUES(2,1,'DELETE FROM hand_rating WHERE track_id=2');
INSERT INTO "undo_entry" VALUES(3,1,'DELETE FROM cue WHERE id=1');
INSERT INTO "undo_entry" VALUES(4,1,'DELETE FROM cue WHERE id=2');
INSERT INTO "undo_entry" VALUES(5,1,'DELETE FROM route WHERE id=1');
INSERT INTO "undo_entry" VALUES(6,1,'DELETE FROM cue_template WHERE id=3');
INSERT INTO "undo_entry" VALUES(7,1,'DELETE FROM choice WHERE name=''finish rules''');
INSERT INTO "undo_entry" VALUES(8,1,'UPDATE cue_colour SET colour=''blue'', name=''blue'', sign=''●'', hex=NULL, place=2 WHERE colour=''blue''');
INSERT INTO "undo_entry" VALUES(9,1,'DELETE FROM track_lock WHERE track_id=1 AND part=''grid''');
INSERT INTO "undo_entry" VALUES(10,1,'DELETE FROM track_lock WHERE track_id=2 AND part=''key''');
INSERT INTO "undo_entry" VALUES(11,1,'DELETE FROM track_lock WHERE track_id=2 AND part=''tags''');
INSERT INTO "undo_entry" VALUES(12,2,'DELETE FROM crate WHERE id=1');
INSERT INTO "undo_entry" VALUES(13,2,'DELETE FROM crate WHERE id=2');
INSERT INTO "undo_entry" VALUES(14,2,'DELETE FROM crate_track WHERE crate_id=1 AND track_id=3');
INSERT INTO "undo_entry" VALUES(15,2,'DELETE FROM crate_track WHERE crate_id=1 AND track_id=1');
INSERT INTO "undo_entry" VALUES(16,2,'DELETE FROM crate_track WHERE crate_id=1 AND track_id=2');
INSERT INTO "undo_entry" VALUES(17,2,'DELETE FROM crate_track WHERE crate_id=2 AND track_id=4');
INSERT INTO "undo_entry" VALUES(18,2,'UPDATE crate SET id=2, name=''Late'', position=2.0, created_at=''2026-11-25T11:26:19.636+00:00'' WHERE id=2');
INSERT INTO "undo_entry" VALUES(19,2,'UPDATE crate SET id=1, name=''Friday'', position=1.0, created_at=''2026-11-25T11:26:19.635+00:00'' WHERE id=1');
CREATE TABLE undo_recording (only_row INTEGER PRIMARY KEY CHECK (only_row = 1), step_id INTEGER) STRICT;
INSERT INTO "undo_recording" VALUES(1,NULL);
CREATE TABLE undo_step (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  stack TEXT NOT NULL CHECK (stack IN ('undo', 'redo'))
) STRICT;
INSERT INTO "undo_step" VALUES(1,'Edit','undo');
INSERT INTO "undo_step" VALUES(2,'Crates','undo');
CREATE INDEX track_audio_hash ON track (audio_hash);
CREATE INDEX track_copy_track ON track_copy (track_id);
CREATE INDEX cue_track ON cue (track_id);
CREATE INDEX crate_track_track ON crate_track (track_id);
CREATE INDEX route_track ON route (track_id);
CREATE VIEW shelf AS
SELECT
  t.id, t.path, t.title, t.artist, t.album, t.genre, t.label, t.comment, t.year, t.duration_s, t.codec, t.rate_hz,
  t.bit_rate, t.has_picture, t.away, t.added_at, t.search_text,
  COALESCE(h.bpm, a.bpm, t.file_bpm) AS bpm,
  CASE WHEN h.bpm IS NOT NULL THEN 'by hand' WHEN a.bpm IS NOT NULL THEN 'analysis'
       WHEN t.file_bpm IS NOT NULL THEN 'file tag' END AS bpm_source,
  COALESCE(a.key, NULLIF(t.file_key, '')) AS key,
  CASE WHEN a.key IS NOT NULL THEN 'analysis' WHEN t.file_key <> '' THEN 'file tag' END AS key_source,
  a.key_confidence, a.second_key, a.second_from_s, a.runner_up_key, a.tuning_cents,
  a.lufs, a.range_lu, a.true_peak_db, a.energy, a.energy_reason, a.phrase_s, a.sections, a.cue_proposals,
  COALESCE(r.stars, t.file_rating) AS rating,
  CASE WHEN h.bpm IS NOT NULL THEN 0.0 ELSE a.grid_doubt END AS doubt,
  CASE WHEN h.bpm IS NOT NULL THEN '[]' ELSE a.grid_reasons END AS doubt_reasons,
  (SELECT group_concat(part) FROM track_lock WHERE track_lock.track_id = t.id) AS locks,
  (SELECT count(*) FROM route WHERE route.track_id = t.id) AS routes,
  (SELECT count(*) FROM cue WHERE cue.track_id = t.id) AS cue_count,
  (SELECT group_concat(role) FROM cue WHERE cue.track_id = t.id) AS cue_roles,
  CASE WHEN q.state IS NOT NULL THEN q.state WHEN a.track_id IS NOT NULL THEN 'done' ELSE 'none' END AS analysis_state,
  q.error AS analysis_error
FROM track t
LEFT JOIN track_analysis a ON a.track_id = t.id
LEFT JOIN hand_grid h ON h.track_id = t.id
LEFT JOIN hand_rating r ON r.track_id = t.id
LEFT JOIN analysis_queue q ON q.track_id = t.id;
CREATE INDEX undo_entry_step ON undo_entry (step_id);
CREATE TRIGGER undo_hand_grid_insert AFTER INSERT ON hand_grid WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM hand_grid WHERE ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_hand_grid_update AFTER UPDATE ON hand_grid WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.track_id IS NOT NEW.track_id OR OLD.bpm IS NOT NEW.bpm OR OLD.anchors IS NOT NEW.anchors OR OLD.beats_per_bar IS NOT NEW.beats_per_bar) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE hand_grid SET ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'bpm=' || quote(OLD.bpm) || ', ' || 'anchors=' || quote(OLD.anchors) || ', ' || 'beats_per_bar=' || quote(OLD.beats_per_bar) || ' WHERE ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_hand_grid_delete BEFORE DELETE ON hand_grid WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO hand_grid (track_id, bpm, anchors, beats_per_bar) VALUES (' || quote(OLD.track_id) || ', ' || quote(OLD.bpm) || ', ' || quote(OLD.anchors) || ', ' || quote(OLD.beats_per_bar) || ')'); END;
CREATE TRIGGER undo_hand_rating_insert AFTER INSERT ON hand_rating WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM hand_rating WHERE ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_hand_rating_update AFTER UPDATE ON hand_rating WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.track_id IS NOT NEW.track_id OR OLD.stars IS NOT NEW.stars) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE hand_rating SET ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'stars=' || quote(OLD.stars) || ' WHERE ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_hand_rating_delete BEFORE DELETE ON hand_rating WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO hand_rating (track_id, stars) VALUES (' || quote(OLD.track_id) || ', ' || quote(OLD.stars) || ')'); END;
CREATE TRIGGER undo_cue_insert AFTER INSERT ON cue WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM cue WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_cue_update AFTER UPDATE ON cue WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.id IS NOT NEW.id OR OLD.track_id IS NOT NEW.track_id OR OLD.position_s IS NOT NEW.position_s OR OLD.length_s IS NOT NEW.length_s OR OLD.label IS NOT NEW.label OR OLD.role IS NOT NEW.role OR OLD.colour IS NOT NEW.colour OR OLD.pad IS NOT NEW.pad OR OLD.engages IS NOT NEW.engages) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE cue SET ' || 'id=' || quote(OLD.id) || ', ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'position_s=' || quote(OLD.position_s) || ', ' || 'length_s=' || quote(OLD.length_s) || ', ' || 'label=' || quote(OLD.label) || ', ' || 'role=' || quote(OLD.role) || ', ' || 'colour=' || quote(OLD.colour) || ', ' || 'pad=' || quote(OLD.pad) || ', ' || 'engages=' || quote(OLD.engages) || ' WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_cue_delete BEFORE DELETE ON cue WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO cue (id, track_id, position_s, length_s, label, role, colour, pad, engages) VALUES (' || quote(OLD.id) || ', ' || quote(OLD.track_id) || ', ' || quote(OLD.position_s) || ', ' || quote(OLD.length_s) || ', ' || quote(OLD.label) || ', ' || quote(OLD.role) || ', ' || quote(OLD.colour) || ', ' || quote(OLD.pad) || ', ' || quote(OLD.engages) || ')'); END;
CREATE TRIGGER undo_crate_insert AFTER INSERT ON crate WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM crate WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_crate_update AFTER UPDATE ON crate WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.id IS NOT NEW.id OR OLD.name IS NOT NEW.name OR OLD.position IS NOT NEW.position OR OLD.created_at IS NOT NEW.created_at) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE crate SET ' || 'id=' || quote(OLD.id) || ', ' || 'name=' || quote(OLD.name) || ', ' || 'position=' || quote(OLD.position) || ', ' || 'created_at=' || quote(OLD.created_at) || ' WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_crate_delete BEFORE DELETE ON crate WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO crate (id, name, position, created_at) VALUES (' || quote(OLD.id) || ', ' || quote(OLD.name) || ', ' || quote(OLD.position) || ', ' || quote(OLD.created_at) || ')'); END;
CREATE TRIGGER undo_crate_track_insert AFTER INSERT ON crate_track WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM crate_track WHERE ' || 'crate_id=' || quote(NEW.crate_id) || ' AND ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_crate_track_update AFTER UPDATE ON crate_track WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.crate_id IS NOT NEW.crate_id OR OLD.track_id IS NOT NEW.track_id OR OLD.position IS NOT NEW.position) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE crate_track SET ' || 'crate_id=' || quote(OLD.crate_id) || ', ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'position=' || quote(OLD.position) || ' WHERE ' || 'crate_id=' || quote(NEW.crate_id) || ' AND ' || 'track_id=' || quote(NEW.track_id)); END;
CREATE TRIGGER undo_crate_track_delete BEFORE DELETE ON crate_track WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO crate_track (crate_id, track_id, position) VALUES (' || quote(OLD.crate_id) || ', ' || quote(OLD.track_id) || ', ' || quote(OLD.position) || ')'); END;
CREATE TRIGGER undo_track_lock_insert AFTER INSERT ON track_lock WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM track_lock WHERE ' || 'track_id=' || quote(NEW.track_id) || ' AND ' || 'part=' || quote(NEW.part)); END;
CREATE TRIGGER undo_track_lock_update AFTER UPDATE ON track_lock WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.track_id IS NOT NEW.track_id OR OLD.part IS NOT NEW.part) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE track_lock SET ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'part=' || quote(OLD.part) || ' WHERE ' || 'track_id=' || quote(NEW.track_id) || ' AND ' || 'part=' || quote(NEW.part)); END;
CREATE TRIGGER undo_track_lock_delete BEFORE DELETE ON track_lock WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO track_lock (track_id, part) VALUES (' || quote(OLD.track_id) || ', ' || quote(OLD.part) || ')'); END;
CREATE TRIGGER undo_route_insert AFTER INSERT ON route WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM route WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_route_update AFTER UPDATE ON route WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.id IS NOT NEW.id OR OLD.track_id IS NOT NEW.track_id OR OLD.name IS NOT NEW.name OR OLD.jumps IS NOT NEW.jumps) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE route SET ' || 'id=' || quote(OLD.id) || ', ' || 'track_id=' || quote(OLD.track_id) || ', ' || 'name=' || quote(OLD.name) || ', ' || 'jumps=' || quote(OLD.jumps) || ' WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_route_delete BEFORE DELETE ON route WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO route (id, track_id, name, jumps) VALUES (' || quote(OLD.id) || ', ' || quote(OLD.track_id) || ', ' || quote(OLD.name) || ', ' || quote(OLD.jumps) || ')'); END;
CREATE TRIGGER undo_cue_template_insert AFTER INSERT ON cue_template WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM cue_template WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_cue_template_update AFTER UPDATE ON cue_template WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.id IS NOT NEW.id OR OLD.name IS NOT NEW.name OR OLD.cues IS NOT NEW.cues) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE cue_template SET ' || 'id=' || quote(OLD.id) || ', ' || 'name=' || quote(OLD.name) || ', ' || 'cues=' || quote(OLD.cues) || ' WHERE ' || 'id=' || quote(NEW.id)); END;
CREATE TRIGGER undo_cue_template_delete BEFORE DELETE ON cue_template WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO cue_template (id, name, cues) VALUES (' || quote(OLD.id) || ', ' || quote(OLD.name) || ', ' || quote(OLD.cues) || ')'); END;
CREATE TRIGGER undo_cue_colour_insert AFTER INSERT ON cue_colour WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM cue_colour WHERE ' || 'colour=' || quote(NEW.colour)); END;
CREATE TRIGGER undo_cue_colour_update AFTER UPDATE ON cue_colour WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.colour IS NOT NEW.colour OR OLD.name IS NOT NEW.name OR OLD.sign IS NOT NEW.sign OR OLD.hex IS NOT NEW.hex OR OLD.place IS NOT NEW.place) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE cue_colour SET ' || 'colour=' || quote(OLD.colour) || ', ' || 'name=' || quote(OLD.name) || ', ' || 'sign=' || quote(OLD.sign) || ', ' || 'hex=' || quote(OLD.hex) || ', ' || 'place=' || quote(OLD.place) || ' WHERE ' || 'colour=' || quote(NEW.colour)); END;
CREATE TRIGGER undo_cue_colour_delete BEFORE DELETE ON cue_colour WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO cue_colour (colour, name, sign, hex, place) VALUES (' || quote(OLD.colour) || ', ' || quote(OLD.name) || ', ' || quote(OLD.sign) || ', ' || quote(OLD.hex) || ', ' || quote(OLD.place) || ')'); END;
CREATE TRIGGER undo_choice_insert AFTER INSERT ON choice WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'DELETE FROM choice WHERE ' || 'name=' || quote(NEW.name)); END;
CREATE TRIGGER undo_choice_update AFTER UPDATE ON choice WHEN (SELECT step_id FROM undo_recording) IS NOT NULL AND (OLD.name IS NOT NEW.name OR OLD.value IS NOT NEW.value) BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'UPDATE choice SET ' || 'name=' || quote(OLD.name) || ', ' || 'value=' || quote(OLD.value) || ' WHERE ' || 'name=' || quote(NEW.name)); END;
CREATE TRIGGER undo_choice_delete BEFORE DELETE ON choice WHEN (SELECT step_id FROM undo_recording) IS NOT NULL BEGIN INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), 'INSERT INTO choice (name, value) VALUES (' || quote(OLD.name) || ', ' || quote(OLD.value) || ')'); END;
COMMIT;
PRAGMA user_version = 3;
