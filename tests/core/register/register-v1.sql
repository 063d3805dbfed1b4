BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('v1');
CREATE TABLE event (
	serial INTEGER NOT NULL, 
	revision VARCHAR(36) NOT NULL, 
	what TEXT NOT NULL, 
	made_by TEXT NOT NULL, 
	made_at VARCHAR(32) NOT NULL, 
	PRIMARY KEY (serial), 
	FOREIGN KEY(revision) REFERENCES revision (id) ON DELETE CASCADE
);
INSERT INTO "event" VALUES(1,'r0','made','l.amberly','2026-11-29T00:00:00.000000Z');
INSERT INTO "event" VALUES(2,'r1','made','l.amberly','2026-11-29T00:00:00.000000Z');
CREATE TABLE item (
	id VARCHAR(36) NOT NULL, 
	number TEXT NOT NULL, 
	made_at VARCHAR(32) NOT NULL, 
	made_by TEXT NOT NULL, 
	lineage VARCHAR(36) DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT uq_item_number UNIQUE (number)
);
INSERT INTO "item" VALUES('i1','PG-1','2026-11-29T00:00:00.000000Z','l.amberly','');
INSERT INTO "item" VALUES('i2','PG-2','2026-11-29T00:00:00.000000Z','l.amberly','');
CREATE TABLE revision (
	id VARCHAR(36) NOT NULL, 
	item VARCHAR(36) NOT NULL, 
	major VARCHAR(8) NOT NULL, 
	minor INTEGER NOT NULL, 
	state VARCHAR(16) NOT NULL, 
	label TEXT NOT NULL, 
	description TEXT NOT NULL, 
	content VARCHAR(64) NOT NULL, 
	product TEXT NOT NULL, 
	bodies TEXT NOT NULL, 
	height INTEGER NOT NULL, 
	made_at VARCHAR(32) NOT NULL, 
	made_by TEXT NOT NULL, 
	changed_at VARCHAR(32) NOT NULL, 
	changed_by TEXT NOT NULL, 
	stamp INTEGER NOT NULL, 
	source TEXT NOT NULL, 
	source_sha256 VARCHAR(64) NOT NULL, 
	lineage VARCHAR(36) DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	CONSTRAINT uq_revision_item_major_minor UNIQUE (item, major, minor), 
	CONSTRAINT ck_revision_state CHECK (state IN ('in work', 'released', 'withdrawn')), 
	CONSTRAINT ck_revision_counts CHECK (minor > 0 AND height >= 0 AND stamp > 0), 
	FOREIGN KEY(item) REFERENCES item (id) ON DELETE RESTRICT
);
INSERT INTO "revision" VALUES('r0','i1','A',1,'in work','PG-1','','0000000000000000000000000000000000000000000000000000000000000000','{}','[]',0,'2026-11-29T00:00:00.000000Z','l.amberly','2026-11-29T00:00:00.000000Z','l.amberly',1,'','','');
INSERT INTO "revision" VALUES('r1','i2','B',3,'in work','PG-2','','0000000000000000000000000000000000000000000000000000000000000000','{}','[]',0,'2026-11-29T00:00:00.000000Z','l.amberly','2026-11-29T00:00:00.000000Z','l.amberly',1,'','','');
CREATE TABLE use (
	parent VARCHAR(36) NOT NULL, 
	position INTEGER NOT NULL, 
	child VARCHAR(36) NOT NULL, 
	occurrence TEXT NOT NULL, 
	PRIMARY KEY (parent, position), 
	FOREIGN KEY(parent) REFERENCES revision (id) ON DELETE CASCADE, 
	FOREIGN KEY(child) REFERENCES revision (id) ON DELETE RESTRICT
);
CREATE INDEX ix_revision_content ON revision (content);
CREATE INDEX ix_use_child ON use (child);
CREATE INDEX ix_event_revision ON event (revision);
CREATE TRIGGER kept_as_released BEFORE UPDATE OF content, product, bodies, major, minor, item ON "revision" FOR EACH ROW WHEN OLD.state <> 'in work' BEGIN SELECT RAISE(ABORT, 'rule kept_as_released: only what is in work can be changed'); END;
CREATE TRIGGER no_way_back BEFORE UPDATE OF state ON "revision" FOR EACH ROW WHEN (OLD.state = 'released' AND NEW.state = 'in work') OR (OLD.state = 'withdrawn' AND NEW.state <> 'withdrawn') BEGIN SELECT RAISE(ABORT, 'rule no_way_back: a state is never taken back'); END;
CREATE TRIGGER released_uses_released BEFORE UPDATE OF state ON "revision" FOR EACH ROW WHEN NEW.state = 'released' AND OLD.state = 'in work' AND EXISTS (SELECT 1 FROM "use" u JOIN revision c ON c.id = u.child WHERE u.parent = NEW.id AND c.state <> 'released') BEGIN SELECT RAISE(ABORT, 'rule released_uses_released: something it uses is not released'); END;
CREATE TRIGGER used_is_not_withdrawn BEFORE UPDATE OF state ON "revision" FOR EACH ROW WHEN NEW.state = 'withdrawn' AND OLD.state <> 'withdrawn' AND EXISTS (SELECT 1 FROM "use" u JOIN revision p ON p.id = u.parent WHERE u.child = NEW.id AND p.state <> 'withdrawn') BEGIN SELECT RAISE(ABORT, 'rule used_is_not_withdrawn: something uses it'); END;
CREATE TRIGGER height_over_uses BEFORE UPDATE OF height ON "revision" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM "use" u JOIN revision c ON c.id = u.child WHERE u.parent = NEW.id AND c.height >= NEW.height) OR EXISTS (SELECT 1 FROM "use" u JOIN revision p ON p.id = u.parent WHERE u.child = NEW.id AND p.height <= NEW.height) BEGIN SELECT RAISE(ABORT, 'rule height_over_uses: it would contain itself'); END;
CREATE TRIGGER only_lowest_is_new BEFORE INSERT ON "revision" FOR EACH ROW WHEN NEW.state <> 'in work' BEGIN SELECT RAISE(ABORT, 'rule only_lowest_is_new: what is new is in work'); END;
CREATE TRIGGER released_is_kept BEFORE DELETE ON "revision" FOR EACH ROW WHEN OLD.state <> 'in work' BEGIN SELECT RAISE(ABORT, 'rule released_is_kept: only what is in work can be removed'); END;
CREATE TRIGGER new_uses_in_work BEFORE INSERT ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision p WHERE p.id = NEW.parent AND p.state <> 'in work') BEGIN SELECT RAISE(ABORT, 'rule new_uses_in_work: only what is in work can be changed'); END;
CREATE TRIGGER uses_in_work BEFORE UPDATE ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision p WHERE p.id = OLD.parent AND p.state <> 'in work') BEGIN SELECT RAISE(ABORT, 'rule uses_in_work: only what is in work can be changed'); END;
CREATE TRIGGER uses_stay BEFORE DELETE ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision p WHERE p.id = OLD.parent AND p.state <> 'in work') BEGIN SELECT RAISE(ABORT, 'rule uses_stay: only what is in work can be changed'); END;
CREATE TRIGGER new_uses_beneath BEFORE INSERT ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision p, revision c WHERE p.id = NEW.parent AND c.id = NEW.child AND c.height >= p.height) BEGIN SELECT RAISE(ABORT, 'rule new_uses_beneath: it would contain itself'); END;
CREATE TRIGGER uses_beneath BEFORE UPDATE ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision p, revision c WHERE p.id = NEW.parent AND c.id = NEW.child AND c.height >= p.height) BEGIN SELECT RAISE(ABORT, 'rule uses_beneath: it would contain itself'); END;
CREATE TRIGGER withdrawn_is_not_used BEFORE INSERT ON "use" FOR EACH ROW WHEN EXISTS (SELECT 1 FROM revision c WHERE c.id = NEW.child AND c.state = 'withdrawn') BEGIN SELECT RAISE(ABORT, 'rule withdrawn_is_not_used: what is withdrawn is not used'); END;
COMMIT;
