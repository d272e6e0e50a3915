#include "core/cost/logbook.h"
#include "core/base/text.h"
#include "core/cost/measurement_json.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <csignal>
#include <unistd.h>

namespace mirolux {

std::filesystem::path logbook_path(const std::filesystem::path& projectPath) {
    return std::filesystem::path(projectPath).replace_extension(".logbook");
}

static std::string digest_of(const std::string& text) {
    Digest digest;
    digest.add(text.data(), text.size());
    return digest.hex();
}

std::string setup_digest(const Setup& setup) {
    return digest_of(json_text(to_json_whole(setup)));
}

Logbook::Logbook(std::unique_ptr<SQLite::Database> database, std::string path)
    : database_(std::move(database)), path_(std::move(path)) {}
Logbook::Logbook(Logbook&&) noexcept = default;
Logbook& Logbook::operator=(Logbook&&) noexcept = default;
Logbook::~Logbook() = default;

static tl::unexpected<Error> refused(const std::string& path, const std::exception& e) {
    return fail(std::string("the logbook could not be used: ") + e.what(), path,
                "Free space or check permissions; entries already kept are safe.");
}

/// Settings of a stored setup one by one: what this build does not know, or cannot take, is kept by its text.
static Setup kept_setup(const Json& stored, std::map<std::string, std::string>& unknown) {
    Setup setup;
    if (!stored.is_object()) throw ReadFailure{"the setup is not an object", "/setup", ""};
    for (const auto& [key, value] : stored.items())
        if (!setup.set_json(key, value)) unknown[key] = value.is_string() ? value.get<std::string>() : json_text(value);
    return setup;
}

static State state_from(const std::string& setup, const std::string& lights, const std::string& view) {
    State state;
    const Json s = Json::parse(setup), l = Json::parse(lights), v = Json::parse(view);
    state.setup = kept_setup(s, state.unknown);
    const JsonCursor root(l), list = l.is_array() ? root : root["lights"], objects = root.list("objects");
    for (std::size_t i = 0; i < list.size(); ++i)
        state.lights.push_back(light_from_json(list.at(i)));
    std::vector<ObjectEdit> edits;
    for (std::size_t i = 0; i < objects.size(); ++i)
        edits.push_back(object_edit_from_json(objects.at(i)));
    if (!edits.empty()) state.objects = std::move(edits);
    const JsonCursor volumes = root.list("volumes"), cheap = root.list("cheapLights"), probes = root.list("probes");
    for (std::size_t i = 0; i < volumes.size(); ++i)
        state.volumes.push_back(air_volume_from_json(volumes.at(i)));
    for (std::size_t i = 0; i < cheap.size(); ++i)
        state.cheapLights.push_back(cheap_light_from_json(cheap.at(i)));
    for (std::size_t i = 0; i < probes.size(); ++i)
        state.probes.push_back(probe_from_json(probes.at(i)));
    state.view = view_from_json(JsonCursor(v));
    return state;
}

/// The whole setup, with what could not be taken from an entry that was restored.
static Json stored_setup(const State& state) {
    Json out = to_json_whole(state.setup);
    for (const auto& [key, value] : state.unknown)
        out[key] = value;
    return out;
}

/// A list of lights, or, where there is more than lights, an object of lists.
static std::string lights_text(const State& state) {
    Json all = Json::object();
    const auto list = [&](const char* key, const auto& values) {
        for (const auto& v : values)
            all[key].push_back(mirolux::to_json(v));
    };
    list("objects", state.objects);
    list("volumes", state.volumes);
    list("cheapLights", state.cheapLights);
    list("probes", state.probes);
    Json lights = Json::array();
    for (const Light& l : state.lights)
        lights.push_back(mirolux::to_json(l));
    if (all.empty()) return json_text(lights);
    all["lights"] = lights;
    return json_text(all);
}

namespace {

constexpr const char* entry_table =
    "CREATE TABLE entry("
    "id INTEGER PRIMARY KEY AUTOINCREMENT, created TEXT NOT NULL, at INTEGER NOT NULL, note TEXT NOT NULL DEFAULT '', "
    "hidden INTEGER NOT NULL DEFAULT 0,"
    "changes TEXT NOT NULL, target TEXT NOT NULL, budget_ms REAL NOT NULL, device TEXT NOT NULL, clock TEXT NOT NULL,"
    "median_ms REAL NOT NULL, low_ms REAL NOT NULL, high_ms REAL NOT NULL, whole_ms REAL NOT NULL, rounds INTEGER NOT "
    "NULL,"
    "width INTEGER NOT NULL, height INTEGER NOT NULL, scene_digest TEXT NOT NULL, setup_digest TEXT NOT NULL, "
    "recovered INTEGER NOT NULL DEFAULT 0)";

void create_second(SQLite::Database& db) {
    db.exec(entry_table);
    db.exec("CREATE TABLE detail(entry INTEGER PRIMARY KEY REFERENCES entry(id), setup TEXT NOT NULL, lights TEXT NOT "
            "NULL, view TEXT NOT NULL, measurement TEXT NOT NULL, thumbnail BLOB NOT NULL)");
    // What the journal draws, so that it never touches the rows themselves.
    db.exec("CREATE INDEX entry_points ON entry(hidden, id, at, median_ms, low_ms, high_ms, budget_ms)");
    db.exec("CREATE INDEX entry_device ON entry(device)");
    db.exec("CREATE INDEX entry_scene ON entry(scene_digest)");
    db.exec("CREATE INDEX entry_setup ON entry(setup_digest)");
    db.exec("CREATE TABLE record(id INTEGER PRIMARY KEY AUTOINCREMENT, created TEXT NOT NULL, kind TEXT NOT NULL, "
            "device TEXT NOT NULL, scene_digest TEXT NOT NULL, setup_digest TEXT NOT NULL, document TEXT NOT NULL)");
    db.exec("CREATE INDEX record_kind ON record(kind, device)");
    db.exec("CREATE TABLE run(id INTEGER PRIMARY KEY AUTOINCREMENT, process INTEGER NOT NULL, created TEXT NOT NULL, "
            "target TEXT NOT NULL, budget_ms REAL NOT NULL, device TEXT NOT NULL,"
            "scene_digest TEXT NOT NULL, setup TEXT NOT NULL, lights TEXT NOT NULL, view TEXT NOT NULL)");
    db.exec("CREATE TABLE round(run INTEGER NOT NULL REFERENCES run(id) ON DELETE CASCADE, number INTEGER NOT NULL, "
            "clock TEXT NOT NULL, whole_ms REAL NOT NULL, passes TEXT NOT NULL, PRIMARY KEY(run, number))");
}

/// Version 1 held everything of an entry in one wide row.
void migrate_first(SQLite::Database& db) {
    db.exec("ALTER TABLE entry RENAME TO entry_1");
    create_second(db);
    SQLite::Statement old(db, "SELECT "
                              "id,created,note,hidden,changes,target,budget_ms,device,clock,median_ms,low_ms,high_ms,"
                              "whole_ms,rounds,width,height,scene_digest,setup FROM entry_1");
    SQLite::Statement insert(db, "INSERT INTO "
                                 "entry(id,created,at,note,hidden,changes,target,budget_ms,device,clock,median_ms,low_"
                                 "ms,high_ms,whole_ms,rounds,width,height,scene_digest,setup_digest) "
                                 "VALUES(?,?,CAST(strftime('%s',?) AS INTEGER),?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)");
    while (old.executeStep()) {
        insert.reset();
        insert.bind(1, old.getColumn(0).getInt64());
        insert.bind(2, old.getColumn(1).getString());
        insert.bind(3, old.getColumn(1).getString());
        insert.bind(4, old.getColumn(2).getString());
        insert.bind(5, old.getColumn(3).getInt());
        for (const int text : {4, 5, 7, 8})
            insert.bind(text + 2, old.getColumn(text).getString());
        for (const int number : {6, 9, 10, 11, 12})
            insert.bind(number + 2, old.getColumn(number).getDouble());
        for (const int whole : {13, 14, 15})
            insert.bind(whole + 2, old.getColumn(whole).getInt());
        insert.bind(18, old.getColumn(16).getString());
        insert.bind(19, digest_of(old.getColumn(17).getString()));
        insert.exec();
    }
    db.exec("INSERT INTO detail SELECT id, setup, lights, view, measurement, thumbnail FROM entry_1");
    db.exec("DROP TABLE entry_1");
}

/// Versions 1 and 2 held what differs from the defaults of their time: it is made whole with today's, once and for all,
/// so that a default which changes later does not rewrite what was measured.
void make_setups_whole(SQLite::Database& db) {
    const Json standard = to_json_whole(Setup());
    const auto whole = [&](const std::string& stored) {
        Json patch = Json::parse(stored, nullptr, false);
        if (!patch.is_object()) return stored; // it was not readable before
        Json all = standard;
        all.update(patch);
        return json_text(all);
    };
    SQLite::Statement details(db, "SELECT entry, setup FROM detail");
    SQLite::Statement setup(db, "UPDATE detail SET setup=? WHERE entry=?"),
        digest(db, "UPDATE entry SET setup_digest=? WHERE id=?");
    std::vector<std::pair<std::int64_t, std::string>> rows;
    while (details.executeStep())
        rows.emplace_back(details.getColumn(0).getInt64(), whole(details.getColumn(1).getString()));
    for (const auto& [id, text] : rows) {
        setup.reset();
        setup.bind(1, text);
        setup.bind(2, id);
        setup.exec();
        digest.reset();
        digest.bind(1, digest_of(text));
        digest.bind(2, id);
        digest.exec();
    }
}

/// What to do about a file that could not be opened: a full disk or a locked folder leaves a good logbook good.
std::string remedy_of(const std::exception& e) {
    const auto* sql = dynamic_cast<const SQLite::Exception*>(&e);
    const int code = sql ? sql->getErrorCode() & 0xFF : 0;
    if (code == 11 || code == 26) // SQLITE_CORRUPT, SQLITE_NOTADB
        return "Move the file away and a new logbook is started.";
    return "Nothing is lost: free space or check permissions, then open it again.";
}

} // namespace

Result<Logbook> Logbook::open(const std::filesystem::path& path) {
    try {
        auto db = std::make_unique<SQLite::Database>(path.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        db->setBusyTimeout(5000);
        db->exec("PRAGMA journal_mode=WAL");
        db->exec("PRAGMA synchronous=FULL");
        db->exec("PRAGMA foreign_keys=ON");
        const auto version = [&] { return db->execAndGet("PRAGMA user_version").getInt(); };
        if (version() > schema_version)
            return fail("was written by a newer version (" + std::to_string(version()) + ")", path.string(),
                        "Update Mirolux, or move the file away to start a new one.");
        if (version() < schema_version) {
            SQLite::Transaction transaction(*db, SQLite::TransactionBehavior::IMMEDIATE);
            if (const int now = version(); now < schema_version) { // another process may have been quicker
                if (now == 1)
                    migrate_first(*db);
                else if (now == 0)
                    create_second(*db);
                if (now > 0) make_setups_whole(*db);
                db->exec("PRAGMA user_version=" + std::to_string(schema_version));
            }
            transaction.commit();
        }
        Logbook book(std::move(db), path.string());
        book.recover();
        return book;
    } catch (const std::exception& e) {
        return fail(std::string("cannot be opened as a logbook: ") + e.what(), path.string(), remedy_of(e));
    }
}

void Logbook::recover() {
    SQLite::Statement runs(
        *database_,
        "SELECT id, process, created, target, budget_ms, device, scene_digest, setup, lights, view FROM run");
    while (runs.executeStep()) {
        const auto process = static_cast<pid_t>(runs.getColumn(1).getInt64());
        if (process == getpid() || kill(process, 0) == 0) continue; // still measuring
        const std::int64_t run = runs.getColumn(0).getInt64();
        SQLite::Transaction transaction(*database_, SQLite::TransactionBehavior::IMMEDIATE);
        std::vector<RoundSample> rounds;
        SQLite::Statement kept(*database_, "SELECT clock, whole_ms, passes FROM round WHERE run=? ORDER BY number");
        kept.bind(1, run);
        while (kept.executeStep()) {
            RoundSample s;
            s.clock = kept.getColumn(0).getString();
            s.wholeMs = kept.getColumn(1).getDouble();
            const Json passes = Json::parse(kept.getColumn(2).getString(), nullptr, false);
            for (const Json& p : passes)
                if (p.is_array() && p.size() == 3 && p[0].is_string() && p[1].is_string() && p[2].is_number())
                    s.passes.push_back({p[0].get<std::string>(), p[1].get<std::string>(), p[2].get<double>()});
            rounds.push_back(std::move(s));
        }
        if (!rounds.empty()) {
            try {
                const State state = state_from(runs.getColumn(7).getString(), runs.getColumn(8).getString(),
                                               runs.getColumn(9).getString());
                Measurement m = measurement_of(rounds, 1);
                m.width = state.view.width;
                m.height = state.view.height;
                m.stopped = true;
                (void)insert(state, m, runs.getColumn(5).getString(), runs.getColumn(3).getString(),
                             runs.getColumn(4).getDouble(), runs.getColumn(6).getString(),
                             runs.getColumn(2).getString(), true);
            } catch (const ReadFailure&) { // rounds stay kept for a build that can read their state
                continue;
            } catch (const Json::exception&) {
                continue;
            }
        }
        SQLite::Statement gone(*database_, "DELETE FROM run WHERE id=?");
        gone.bind(1, run);
        gone.exec();
        transaction.commit();
    }
}

Result<std::int64_t> Logbook::insert(const State& state, const Measurement& m, const std::string& device,
                                     const std::string& targetName, double budget, const std::string& digest,
                                     const std::string& created, bool recovered) {
    Json changes = Json::array();
    {
        SQLite::Statement last(*database_, "SELECT setup, lights, view FROM detail JOIN entry ON entry.id=detail.entry "
                                           "WHERE hidden=0 ORDER BY id DESC LIMIT 1");
        if (!last.executeStep())
            changes.push_back("First entry");
        else
            try { // an entry that cannot be read is no reason to keep none
                changes = describe_changes(state_from(last.getColumn(0).getString(), last.getColumn(1).getString(),
                                                      last.getColumn(2).getString()),
                                           state);
            } catch (const ReadFailure& f) {
                changes.push_back("The entry before cannot be read: " + f.what);
            } catch (const Json::exception&) {
                changes.push_back("The entry before cannot be read");
            }
    }
    SQLite::Statement insert(*database_, "INSERT INTO "
                                         "entry(created,at,changes,target,budget_ms,device,clock,median_ms,low_ms,high_"
                                         "ms,whole_ms,rounds,width,height,scene_digest,setup_digest,recovered) "
                                         "VALUES(?,CAST(strftime('%s',?) AS INTEGER),?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)");
    int i = 1;
    insert.bind(i++, created);
    insert.bind(i++, created);
    insert.bind(i++, json_text(changes));
    insert.bind(i++, targetName);
    insert.bind(i++, budget);
    insert.bind(i++, device);
    insert.bind(i++, m.clock);
    insert.bind(i++, m.frame.median);
    insert.bind(i++, m.frame.low);
    insert.bind(i++, m.frame.high);
    insert.bind(i++, m.whole.median);
    insert.bind(i++, m.rounds);
    insert.bind(i++, m.width);
    insert.bind(i++, m.height);
    insert.bind(i++, digest);
    insert.bind(i++, setup_digest(state.setup));
    insert.bind(i++, recovered ? 1 : 0);
    insert.exec();
    const std::int64_t id = database_->getLastInsertRowid();
    const auto png = m.thumbnail.empty() ? std::vector<std::uint8_t>{} : encode_png(m.thumbnail);
    SQLite::Statement detail(*database_,
                             "INSERT INTO detail(entry,setup,lights,view,measurement,thumbnail) VALUES(?,?,?,?,?,?)");
    detail.bind(1, id);
    detail.bind(2, json_text(stored_setup(state)));
    detail.bind(3, lights_text(state));
    detail.bind(4, json_text(mirolux::to_json(state.view)));
    detail.bind(5, json_text(mirolux::to_json(m)));
    detail.bind(6, png.empty() ? static_cast<const void*>("") : png.data(),
                static_cast<int>(png.size())); // a null pointer would be NULL
    detail.exec();
    return id;
}

Result<std::int64_t> Logbook::add(const State& state, const Measurement& m, const DeviceInfo& device,
                                  const Target& target, const std::string& digest, std::int64_t run) {
    try {
        SQLite::Transaction transaction(*database_, SQLite::TransactionBehavior::IMMEDIATE);
        auto id = insert(state, m, device.renderer, target.name, measured_budget_ms(target), digest, utc_now(), false);
        if (run) {
            SQLite::Statement gone(*database_, "DELETE FROM run WHERE id=?");
            gone.bind(1, run);
            gone.exec();
        }
        transaction.commit();
        return id;
    } catch (const ReadFailure& f) {
        return fail("the newest entry cannot be read: " + f.what, path_ + "#" + f.pointer,
                    "Delete that entry and log again.");
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<std::int64_t> Logbook::begin_run(const RunStart& s) {
    try {
        SQLite::Statement insert(
            *database_, "INSERT INTO run(process,created,target,budget_ms,device,scene_digest,setup,lights,view) "
                        "VALUES(?,?,?,?,?,?,?,?,?)");
        int i = 1;
        insert.bind(i++, static_cast<std::int64_t>(getpid()));
        insert.bind(i++, utc_now());
        insert.bind(i++, s.target.name);
        insert.bind(i++, measured_budget_ms(s.target));
        insert.bind(i++, s.device.renderer);
        insert.bind(i++, s.sceneDigest);
        insert.bind(i++, json_text(stored_setup(s.state)));
        insert.bind(i++, lights_text(s.state));
        insert.bind(i++, json_text(mirolux::to_json(s.state.view)));
        insert.exec();
        return database_->getLastInsertRowid();
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<void> Logbook::keep_round(std::int64_t run, const RoundSample& sample) {
    try {
        Json passes = Json::array();
        for (const auto& p : sample.passes)
            passes.push_back({p.name, p.family, p.ms});
        SQLite::Statement insert(*database_, "INSERT INTO round(run,number,clock,whole_ms,passes) VALUES(?,(SELECT "
                                             "COALESCE(MAX(number),0)+1 FROM round WHERE run=?),?,?,?)");
        insert.bind(1, run);
        insert.bind(2, run);
        insert.bind(3, sample.clock);
        insert.bind(4, sample.wholeMs);
        insert.bind(5, json_text(passes));
        insert.exec();
        return {};
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

void RoundKeeper::keep(const RoundSample& sample) {
    if (trouble_) return;
    if (!run_) {
        auto begun = logbook_.begin_run(start_);
        if (!begun) {
            trouble_ = begun.error();
            return;
        }
        run_ = *begun;
    }
    if (auto ok = logbook_.keep_round(run_, sample); !ok) trouble_ = ok.error();
}

static Result<void> change(SQLite::Database& db, const std::string& path, const char* sql, const std::string* text,
                           std::int64_t id) {
    try {
        SQLite::Statement s(db, sql);
        int i = 1;
        if (text) s.bind(i++, *text);
        s.bind(i, id);
        if (s.exec() == 0) return fail("has no entry " + std::to_string(id), path);
        return {};
    } catch (const std::exception& e) {
        return refused(path, e);
    }
}

Result<void> Logbook::drop_run(std::int64_t run) {
    return change(*database_, path_, "DELETE FROM run WHERE id=?", nullptr, run);
}
Result<void> Logbook::annotate(std::int64_t id, const std::string& note) {
    return change(*database_, path_, "UPDATE entry SET note=? WHERE id=?", &note, id);
}
Result<void> Logbook::remove(std::int64_t id) {
    return change(*database_, path_, "UPDATE entry SET hidden=1 WHERE id=?", nullptr, id);
}
Result<void> Logbook::bring_back(std::int64_t id) {
    return change(*database_, path_, "UPDATE entry SET hidden=0 WHERE id=?", nullptr, id);
}

Result<std::int64_t> Logbook::keep_record(const std::string& kind, const std::string& device,
                                          const std::string& sceneDigest, const Setup& setup, const Json& document) {
    try {
        SQLite::Statement insert(
            *database_,
            "INSERT INTO record(created,kind,device,scene_digest,setup_digest,document) VALUES(?,?,?,?,?,?)");
        int i = 1;
        for (const std::string& text : {utc_now(), kind, device, sceneDigest, setup_digest(setup), json_text(document)})
            insert.bind(i++, text);
        insert.exec();
        return database_->getLastInsertRowid();
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

/// " AND column=?" for each value that is asked for, which then stands in `values`.
static std::string conditions(std::initializer_list<std::pair<const char*, const std::string*>> asked,
                              std::vector<const std::string*>& values) {
    std::string sql;
    for (const auto& [column, value] : asked)
        if (!value->empty()) {
            sql += std::string(" AND ") + column + "=?";
            values.push_back(value);
        }
    return sql;
}

Result<std::vector<HistoryRecord>> Logbook::records(const std::string& kind, const EntryQuery& query) const {
    try {
        std::vector<const std::string*> values;
        const std::string where = conditions({{"kind", &kind},
                                              {"device", &query.device},
                                              {"scene_digest", &query.sceneDigest},
                                              {"setup_digest", &query.setupDigest}},
                                             values);
        SQLite::Statement q(*database_,
                            "SELECT id,created,kind,device,scene_digest,setup_digest,document FROM record WHERE 1" +
                                where + " ORDER BY id DESC LIMIT ?");
        int i = 1;
        for (const std::string* v : values)
            q.bind(i++, *v);
        q.bind(i, query.limit);
        std::vector<HistoryRecord> out;
        while (q.executeStep())
            out.push_back({q.getColumn(0).getInt64(), q.getColumn(1).getString(), q.getColumn(2).getString(),
                           q.getColumn(3).getString(), q.getColumn(4).getString(), q.getColumn(5).getString(),
                           q.getColumn(6).getString()});
        return out;
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

#define ENTRY_COLUMNS                                                                                                  \
    "SELECT "                                                                                                          \
    "id,created,note,changes,target,budget_ms,device,clock,median_ms,low_ms,high_ms,whole_ms,rounds,width,height,"     \
    "scene_digest,setup_digest,recovered,thumbnail FROM entry JOIN detail ON detail.entry=entry.id "

static Entry entry_of(SQLite::Statement& q) {
    Entry e;
    e.id = q.getColumn(0).getInt64();
    e.created = q.getColumn(1).getString();
    e.note = q.getColumn(2).getString();
    const Json changes = Json::parse(q.getColumn(3).getString(), nullptr, false);
    if (changes.is_array())
        for (const Json& c : changes)
            if (c.is_string()) e.changes.push_back(c.get<std::string>());
    e.targetName = q.getColumn(4).getString();
    e.budgetMs = q.getColumn(5).getDouble();
    e.device = q.getColumn(6).getString();
    e.clock = q.getColumn(7).getString();
    e.frame = {q.getColumn(8).getDouble(), q.getColumn(9).getDouble(), q.getColumn(10).getDouble()};
    e.whole.median = q.getColumn(11).getDouble();
    e.rounds = q.getColumn(12).getInt();
    e.width = q.getColumn(13).getInt();
    e.height = q.getColumn(14).getInt();
    e.sceneDigest = q.getColumn(15).getString();
    e.setupDigest = q.getColumn(16).getString();
    e.recovered = q.getColumn(17).getInt() != 0;
    const auto blob = q.getColumn(18);
    const auto* bytes = static_cast<const std::uint8_t*>(blob.getBlob());
    if (bytes) e.thumbnail.assign(bytes, bytes + blob.getBytes());
    return e;
}

Result<std::vector<Entry>> Logbook::entries(const EntryQuery& query) const {
    try {
        std::vector<const std::string*> values;
        std::string sql = ENTRY_COLUMNS "WHERE hidden=0" + conditions({{"device", &query.device},
                                                                       {"scene_digest", &query.sceneDigest},
                                                                       {"setup_digest", &query.setupDigest},
                                                                       {"target", &query.targetName}},
                                                                      values);
        sql += " ORDER BY id DESC LIMIT ?";
        SQLite::Statement q(*database_, sql);
        int i = 1;
        for (const std::string* v : values)
            q.bind(i++, *v);
        q.bind(i, query.limit);
        std::vector<Entry> out;
        while (q.executeStep())
            out.push_back(entry_of(q));
        return out;
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<std::vector<Entry>> Logbook::entries_of(const std::vector<std::int64_t>& ids) const {
    try {
        SQLite::Statement q(*database_, ENTRY_COLUMNS "WHERE id=?");
        std::vector<Entry> out;
        for (const std::int64_t id : ids) {
            q.reset();
            q.bind(1, id);
            if (q.executeStep()) out.push_back(entry_of(q));
        }
        return out;
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<std::vector<EntryPoint>> Logbook::points() const {
    try {
        SQLite::Statement q(*database_, "SELECT id, at, median_ms, low_ms, high_ms, budget_ms FROM entry INDEXED BY "
                                        "entry_points WHERE hidden=0 ORDER BY id");
        std::vector<EntryPoint> out;
        while (q.executeStep())
            out.push_back({q.getColumn(0).getInt64(), q.getColumn(1).getInt64(), q.getColumn(2).getDouble(),
                           q.getColumn(3).getDouble(), q.getColumn(4).getDouble(), q.getColumn(5).getDouble()});
        return out;
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<State> Logbook::state(std::int64_t id) const {
    try {
        SQLite::Statement q(*database_, "SELECT setup, lights, view FROM detail WHERE entry=?");
        q.bind(1, id);
        if (!q.executeStep()) return fail("has no entry " + std::to_string(id), path_);
        return state_from(q.getColumn(0).getString(), q.getColumn(1).getString(), q.getColumn(2).getString());
    } catch (const ReadFailure& f) {
        return fail("entry " + std::to_string(id) + " cannot be read: " + f.what, path_ + "#" + f.pointer);
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<std::string> Logbook::measurement_json(std::int64_t id) const {
    try {
        SQLite::Statement q(*database_, "SELECT measurement FROM detail WHERE entry=?");
        q.bind(1, id);
        if (!q.executeStep()) return fail("has no entry " + std::to_string(id), path_);
        return q.getColumn(0).getString();
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

} // namespace mirolux
