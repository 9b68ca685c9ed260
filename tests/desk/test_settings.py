"""What is remembered between starts."""

from tallmast.desk.frame.settings import MOST_CORRECTIONS, Settings


def test_what_was_said_of_a_table_is_remembered_by_the_next_start(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    first = Settings()
    first.correct("a|b|named", "log", {"latitude_deg": "a"})
    first.sync()
    assert Settings().correction("a|b|named") == ("log", {"latitude_deg": "a"})
    assert Settings().correction("a|b|bare") is None


def test_only_so_many_are_remembered_the_newest(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    settings = Settings()
    for i in range(MOST_CORRECTIONS + 3):
        settings.correct(f"shape {i}", "cut", {"angle": str(i)})
    assert len(settings.corrections()) == MOST_CORRECTIONS
    assert settings.correction("shape 2") is None
    assert settings.correction(f"shape {MOST_CORRECTIONS + 2}") == ("cut", {"angle": str(MOST_CORRECTIONS + 2)})


def test_a_memory_that_somebody_edited_is_no_trouble(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    for junk in ("{", "[1]", '{"a": 3}', '{"a": ["log", 5]}'):
        settings = Settings()
        settings._store.setValue("corrections", junk)
        assert settings.corrections() == {}
