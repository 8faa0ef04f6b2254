BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0004');
CREATE TABLE material (
	id VARCHAR(40) NOT NULL, 
	name VARCHAR(80) NOT NULL, 
	colour VARCHAR(7) NOT NULL, 
	density_g_cm3 FLOAT NOT NULL, 
	price_per_kg FLOAT NOT NULL, 
	created DATETIME NOT NULL, 
	deleted DATETIME, attenuation_per_mm FLOAT DEFAULT '1.2' NOT NULL, attenuation_error FLOAT, 
	CONSTRAINT pk_material PRIMARY KEY (id)
);
CREATE TABLE motif (
	id VARCHAR(32) NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	tags JSON NOT NULL, 
	sha256 VARCHAR(64) NOT NULL, 
	wide_mm FLOAT NOT NULL, 
	created DATETIME NOT NULL, 
	deleted DATETIME, 
	CONSTRAINT pk_motif PRIMARY KEY (id), 
	CONSTRAINT fk_motif_sha256 FOREIGN KEY(sha256) REFERENCES picture (sha256)
);
INSERT INTO "motif" VALUES('9493e7ca292945e79804ed0eb272b077','Star','["sky"]','4d43a826332d1fc56a1edbcb47e3f005b42f9e09f7fac15af86c6aa06410b1c3',20.0,'2026-11-25 22:03:03.695315',NULL);
CREATE TABLE picture (
	sha256 VARCHAR(64) NOT NULL, 
	filename VARCHAR(255) NOT NULL, 
	file_format VARCHAR(16) NOT NULL, 
	cols INTEGER NOT NULL, 
	rows INTEGER NOT NULL, 
	bit_depth INTEGER NOT NULL, 
	coloured BOOLEAN NOT NULL, 
	transparent BOOLEAN NOT NULL, 
	dpi FLOAT, 
	bytes INTEGER NOT NULL, 
	notes JSON NOT NULL, 
	created DATETIME NOT NULL, 
	CONSTRAINT pk_picture PRIMARY KEY (sha256)
);
INSERT INTO "picture" VALUES('adc211540bfdd15868adc8119e87860161d775da1d9d72f94f6b82a3cb2bc042','ramp.png','PNG',9,8,16,0,0,NULL,113,'[]','2026-11-25 22:03:03.512128');
INSERT INTO "picture" VALUES('554d832a34b4c50d4234342af1a7d5eb371613cc044d97eab28f72e777913c90','second ramp.png','PNG',7,5,8,0,0,NULL,88,'[]','2026-11-25 22:03:03.522270');
INSERT INTO "picture" VALUES('4d43a826332d1fc56a1edbcb47e3f005b42f9e09f7fac15af86c6aa06410b1c3','motif.png','PNG',6,6,16,0,0,NULL,88,'[]','2026-11-25 22:03:03.528705');
CREATE TABLE piece (
	id VARCHAR(32) NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	position INTEGER NOT NULL, 
	created DATETIME NOT NULL, 
	changed DATETIME NOT NULL, 
	deleted DATETIME, 
	CONSTRAINT pk_piece PRIMARY KEY (id)
);
INSERT INTO "piece" VALUES('af74b0766d764b848db7e466c1ac3477','Crater tile',4,'2026-11-25 22:03:03.548963','2026-11-25 22:03:03.673969',NULL);
INSERT INTO "piece" VALUES('3702c7e84ebe47e8b3c42feff2fb9d6f','Taken off the shelf',1,'2026-11-25 22:03:03.686877','2026-11-25 22:03:03.686892','2026-11-25 22:03:03.692290');
CREATE TABLE printer (
	id VARCHAR(40) NOT NULL, 
	name VARCHAR(80) NOT NULL, 
	nozzle_mm FLOAT NOT NULL, 
	line_mm FLOAT NOT NULL, 
	layer_mm FLOAT NOT NULL, 
	bed_wide_mm FLOAT NOT NULL, 
	bed_deep_mm FLOAT NOT NULL, 
	bed_high_mm FLOAT NOT NULL, 
	created DATETIME NOT NULL, 
	deleted DATETIME, 
	CONSTRAINT pk_printer PRIMARY KEY (id)
);
CREATE TABLE revision (
	id INTEGER NOT NULL, 
	piece_id VARCHAR(32) NOT NULL, 
	number INTEGER NOT NULL, 
	recipe JSON NOT NULL, 
	label VARCHAR(120) NOT NULL, 
	created DATETIME NOT NULL, 
	CONSTRAINT pk_revision PRIMARY KEY (id), 
	CONSTRAINT fk_revision_piece_id FOREIGN KEY(piece_id) REFERENCES piece (id) ON DELETE CASCADE
);
INSERT INTO "revision" VALUES(1,'af74b0766d764b848db7e466c1ac3477',1,'{"schema_version": 1, "printer": {"id": "fine-nozzle", "name": "Fine nozzle, small bed", "nozzle_mm": 0.4, "line_mm": 0.42, "layer_mm": 0.12, "bed_wide_mm": 180.0, "bed_deep_mm": 180.0, "bed_high_mm": 180.0}, "material": {"id": "natural-clear", "name": "Natural, translucent", "colour": "#E9E2CF", "density_g_cm3": 1.27, "price_per_kg": 24.0, "attenuation_per_mm": 0.55, "attenuation_error": null}, "picture": {"sha256": "adc211540bfdd15868adc8119e87860161d775da1d9d72f94f6b82a3cb2bc042", "filename": "ramp.png", "along": "wide", "side": {"mm": 100.0, "text": null}, "corrections": []}, "heights": {"raised": "light", "depth": {"mm": 3.0, "text": null}, "backing": {"mm": 1.0, "text": null}, "mapping": "straight", "pins": [], "smooth": {"mm": 0.0, "text": null}, "keep_edges": false, "compression": {"strength": 0.0, "detail": 0.3}, "profile": {"kind": "sharp", "reach": {"mm": 1.0, "text": null}, "softness": 0.5}, "build_up": [{"id": "picture", "name": "", "enabled": true, "kind": "picture", "rule": "replace"}], "cut_dropped": false, "islands": "keep", "hold": {"mm": 0.6, "text": null}, "draft": 0.0, "mirror": false, "negative": false}, "form": {"kind": "panel"}, "fittings": [], "holder": {"wall": {"mm": 2.0, "text": null}, "base": {"mm": 3.0, "text": null}, "deep": {"mm": 16.0, "text": null}, "cap": {"mm": 14.0, "text": null}, "lettering": ""}, "lantern": {"sides": 4, "clearance": {"mm": 0.3, "text": null}, "thick": {"mm": 2.4, "text": null}, "lip": {"mm": 4.0, "text": null}, "vent": {"mm": 12.0, "text": null}}, "finish": {"detail": "made", "tolerance": null, "pitch": null, "method": "auto", "most_triangles": null, "most_mb": null}, "light": {"lamp": 1.0, "printed": "ideal"}}','picture brought','2026-11-25 22:03:03.554547');
INSERT INTO "revision" VALUES(2,'af74b0766d764b848db7e466c1ac3477',2,'{"schema_version": 1, "printer": {"id": "fine-nozzle", "name": "Fine nozzle, small bed", "nozzle_mm": 0.4, "line_mm": 0.42, "layer_mm": 0.12, "bed_wide_mm": 180.0, "bed_deep_mm": 180.0, "bed_high_mm": 180.0}, "material": {"id": "natural-clear", "name": "Natural, translucent", "colour": "#E9E2CF", "density_g_cm3": 1.27, "price_per_kg": 24.0, "attenuation_per_mm": 0.55, "attenuation_error": null}, "picture": {"sha256": "adc211540bfdd15868adc8119e87860161d775da1d9d72f94f6b82a3cb2bc042", "filename": "ramp.png", "along": "wide", "side": {"mm": 100.0, "text": null}, "corrections": []}, "heights": {"raised": "light", "depth": {"mm": 4.0, "text": "4 mm"}, "backing": {"mm": 1.0, "text": null}, "mapping": "straight", "pins": [], "smooth": {"mm": 0.0, "text": null}, "keep_edges": false, "compression": {"strength": 0.0, "detail": 0.3}, "profile": {"kind": "sharp", "reach": {"mm": 1.0, "text": null}, "softness": 0.5}, "build_up": [{"id": "picture", "name": "", "enabled": true, "kind": "picture", "rule": "replace"}], "cut_dropped": false, "islands": "keep", "hold": {"mm": 0.6, "text": null}, "draft": 0.0, "mirror": false, "negative": false}, "form": {"kind": "panel"}, "fittings": [], "holder": {"wall": {"mm": 2.0, "text": null}, "base": {"mm": 3.0, "text": null}, "deep": {"mm": 16.0, "text": null}, "cap": {"mm": 14.0, "text": null}, "lettering": ""}, "lantern": {"sides": 4, "clearance": {"mm": 0.3, "text": null}, "thick": {"mm": 2.4, "text": null}, "lip": {"mm": 4.0, "text": null}, "vent": {"mm": 12.0, "text": null}}, "finish": {"detail": "made", "tolerance": null, "pitch": null, "method": "auto", "most_triangles": null, "most_mb": null}, "light": {"lamp": 1.0, "printed": "ideal"}}','relief depth','2026-11-25 22:03:03.576893');
INSERT INTO "revision" VALUES(3,'af74b0766d764b848db7e466c1ac3477',3,'{"schema_version": 1, "printer": {"id": "fine-nozzle", "name": "Fine nozzle, small bed", "nozzle_mm": 0.4, "line_mm": 0.42, "layer_mm": 0.12, "bed_wide_mm": 180.0, "bed_deep_mm": 180.0, "bed_high_mm": 180.0}, "material": {"id": "natural-clear", "name": "Natural, translucent", "colour": "#E9E2CF", "density_g_cm3": 1.27, "price_per_kg": 24.0, "attenuation_per_mm": 0.55, "attenuation_error": null}, "picture": {"sha256": "adc211540bfdd15868adc8119e87860161d775da1d9d72f94f6b82a3cb2bc042", "filename": "ramp.png", "along": "wide", "side": {"mm": 100.0, "text": null}, "corrections": [{"id": "over", "name": "", "enabled": true, "kind": "overlay", "sha256": "554d832a34b4c50d4234342af1a7d5eb371613cc044d97eab28f72e777913c90", "filename": "", "centre": [4.0, 4.0], "wide": 4.0, "degrees": 0.0, "mirrored": false, "opacity": 1.0, "blend": "replace", "mask": "alpha"}]}, "heights": {"raised": "light", "depth": {"mm": 4.0, "text": "4 mm"}, "backing": {"mm": 1.0, "text": null}, "mapping": "straight", "pins": [], "smooth": {"mm": 0.0, "text": null}, "keep_edges": false, "compression": {"strength": 0.0, "detail": 0.3}, "profile": {"kind": "sharp", "reach": {"mm": 1.0, "text": null}, "softness": 0.5}, "build_up": [{"id": "picture", "name": "", "enabled": true, "kind": "picture", "rule": "replace"}], "cut_dropped": false, "islands": "keep", "hold": {"mm": 0.6, "text": null}, "draft": 0.0, "mirror": false, "negative": false}, "form": {"kind": "panel"}, "fittings": [], "holder": {"wall": {"mm": 2.0, "text": null}, "base": {"mm": 3.0, "text": null}, "deep": {"mm": 16.0, "text": null}, "cap": {"mm": 14.0, "text": null}, "lettering": ""}, "lantern": {"sides": 4, "clearance": {"mm": 0.3, "text": null}, "thick": {"mm": 2.4, "text": null}, "lip": {"mm": 4.0, "text": null}, "vent": {"mm": 12.0, "text": null}}, "finish": {"detail": "made", "tolerance": null, "pitch": null, "method": "auto", "most_triangles": null, "most_mb": null}, "light": {"lamp": 1.0, "printed": "ideal"}}','add second picture','2026-11-25 22:03:03.665856');
INSERT INTO "revision" VALUES(4,'af74b0766d764b848db7e466c1ac3477',4,'{"schema_version": 1, "printer": {"id": "fine-nozzle", "name": "Fine nozzle, small bed", "nozzle_mm": 0.4, "line_mm": 0.42, "layer_mm": 0.12, "bed_wide_mm": 180.0, "bed_deep_mm": 180.0, "bed_high_mm": 180.0}, "material": {"id": "natural-clear", "name": "Natural, translucent", "colour": "#E9E2CF", "density_g_cm3": 1.27, "price_per_kg": 24.0, "attenuation_per_mm": 0.55, "attenuation_error": null}, "picture": {"sha256": "adc211540bfdd15868adc8119e87860161d775da1d9d72f94f6b82a3cb2bc042", "filename": "ramp.png", "along": "wide", "side": {"mm": 100.0, "text": null}, "corrections": []}, "heights": {"raised": "light", "depth": {"mm": 4.0, "text": "4 mm"}, "backing": {"mm": 1.0, "text": null}, "mapping": "straight", "pins": [], "smooth": {"mm": 0.0, "text": null}, "keep_edges": false, "compression": {"strength": 0.0, "detail": 0.3}, "profile": {"kind": "sharp", "reach": {"mm": 1.0, "text": null}, "softness": 0.5}, "build_up": [{"id": "picture", "name": "", "enabled": true, "kind": "picture", "rule": "replace"}], "cut_dropped": false, "islands": "keep", "hold": {"mm": 0.6, "text": null}, "draft": 0.0, "mirror": false, "negative": false}, "form": {"kind": "disc"}, "fittings": [], "holder": {"wall": {"mm": 2.0, "text": null}, "base": {"mm": 3.0, "text": null}, "deep": {"mm": 16.0, "text": null}, "cap": {"mm": 14.0, "text": null}, "lettering": ""}, "lantern": {"sides": 4, "clearance": {"mm": 0.3, "text": null}, "thick": {"mm": 2.4, "text": null}, "lip": {"mm": 4.0, "text": null}, "vent": {"mm": 12.0, "text": null}}, "finish": {"detail": "made", "tolerance": null, "pitch": null, "method": "auto", "most_triangles": null, "most_mb": null}, "light": {"lamp": 1.0, "printed": "ideal"}}','form','2026-11-25 22:03:03.675156');
INSERT INTO "revision" VALUES(5,'3702c7e84ebe47e8b3c42feff2fb9d6f',1,'{"schema_version": 1, "printer": {"id": "fine-nozzle", "name": "Fine nozzle, small bed", "nozzle_mm": 0.4, "line_mm": 0.42, "layer_mm": 0.12, "bed_wide_mm": 180.0, "bed_deep_mm": 180.0, "bed_high_mm": 180.0}, "material": {"id": "natural-clear", "name": "Natural, translucent", "colour": "#E9E2CF", "density_g_cm3": 1.27, "price_per_kg": 24.0, "attenuation_per_mm": 0.55, "attenuation_error": null}, "picture": {"sha256": "554d832a34b4c50d4234342af1a7d5eb371613cc044d97eab28f72e777913c90", "filename": "second ramp.png", "along": "wide", "side": {"mm": 100.0, "text": null}, "corrections": []}, "heights": {"raised": "light", "depth": {"mm": 3.0, "text": null}, "backing": {"mm": 1.0, "text": null}, "mapping": "straight", "pins": [], "smooth": {"mm": 0.0, "text": null}, "keep_edges": false, "compression": {"strength": 0.0, "detail": 0.3}, "profile": {"kind": "sharp", "reach": {"mm": 1.0, "text": null}, "softness": 0.5}, "build_up": [{"id": "picture", "name": "", "enabled": true, "kind": "picture", "rule": "replace"}], "cut_dropped": false, "islands": "keep", "hold": {"mm": 0.6, "text": null}, "draft": 0.0, "mirror": false, "negative": false}, "form": {"kind": "panel"}, "fittings": [], "holder": {"wall": {"mm": 2.0, "text": null}, "base": {"mm": 3.0, "text": null}, "deep": {"mm": 16.0, "text": null}, "cap": {"mm": 14.0, "text": null}, "lettering": ""}, "lantern": {"sides": 4, "clearance": {"mm": 0.3, "text": null}, "thick": {"mm": 2.4, "text": null}, "lip": {"mm": 4.0, "text": null}, "vent": {"mm": 12.0, "text": null}}, "finish": {"detail": "made", "tolerance": null, "pitch": null, "method": "auto", "most_triangles": null, "most_mb": null}, "light": {"lamp": 1.0, "printed": "ideal"}}','picture brought','2026-11-25 22:03:03.688304');
CREATE UNIQUE INDEX ix_revision_piece_number ON revision (piece_id, number);
COMMIT;
