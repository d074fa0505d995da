-- What was written down, word by word: the search of the log book. It keeps no text, only in which entries a word stands;
-- they never change. Of a body the texts count, a species by its key, whose parts are words.
CREATE VIRTUAL TABLE entry_words USING fts5 (text, content = '', tokenize = 'unicode61 remove_diacritics 2');

CREATE VIEW entry_text (id, text) AS
  SELECT entry.id, entry.kind || ' ' || entry.note || ' ' || entry.who || ' ' || COALESCE((
    SELECT group_concat(part.atom, ' ') FROM json_tree(CASE WHEN json_valid(entry.body) THEN entry.body ELSE '{}' END) AS part
    WHERE part.type = 'text'), '')
  FROM entry;

INSERT INTO entry_words (rowid, text) SELECT id, text FROM entry_text;

CREATE TRIGGER entry_in_words AFTER INSERT ON entry BEGIN
  INSERT INTO entry_words (rowid, text) SELECT id, text FROM entry_text WHERE id = new.id;
END;
