#include "core/cost/logbook.h"
#include "core/base/text.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include <SQLiteCpp/SQLiteCpp.h>
#include <map>

namespace mirolux {

static constexpr int schemaVersion = 1;

static std::string degrees(float radians) { return number_text(glm::degrees(radians), 3) + "\u00b0"; }

static std::vector<std::string> light_changes(const Light& a, const Light& b) {
    std::vector<std::string> out;
    auto say = [&](const std::string& what, const std::string& from, const std::string& to) { out.push_back(b.name + ": " + what + " " + from + " \u2192 " + to); };
    if (a.name != b.name) out.push_back(a.name + " renamed " + b.name);
    if (a.enabled != b.enabled) out.push_back(b.name + (b.enabled ? " switched on" : " switched off"));
    if (a.type != b.type) say("type", word(a.type), word(b.type));
    if (a.intensity != b.intensity)
        say("intensity", number_text(intensity_in(a, b.unit)) + " " + word(b.unit), number_text(intensity_in(b, b.unit)) + " " + word(b.unit));
    if (a.color != b.color || a.kelvin != b.kelvin) {
        if (b.kelvin > 0) say("colour", a.kelvin > 0 ? number_text(a.kelvin) + " K" : "its own", number_text(b.kelvin) + " K");
        else out.push_back(b.name + ": colour changed");
    }
    if (a.range != b.range) say("range", a.range > 0 ? number_text(a.range) + " m" : "unbounded", b.range > 0 ? number_text(b.range) + " m" : "unbounded");
    if (a.position != b.position) out.push_back(b.name + " moved " + number_text(glm::length(b.position - a.position), 3) + " m");
    if (a.direction != b.direction) out.push_back(b.name + " aimed " + degrees(std::acos(std::clamp(glm::dot(a.direction, b.direction), -1.0f, 1.0f))) + " away");
    if (a.outerConeAngle != b.outerConeAngle) say("outer cone", degrees(a.outerConeAngle), degrees(b.outerConeAngle));
    if (a.innerConeAngle != b.innerConeAngle) say("inner cone", degrees(a.innerConeAngle), degrees(b.innerConeAngle));
    return out;
}

std::vector<std::string> describe_changes(const State& from, const State& to) {
    std::vector<std::string> out = differences(from.setup, to.setup);
    std::map<int, const Light*> before;
    for (const Light& l : from.lights)
        before[l.id] = &l;
    for (const Light& l : to.lights) {
        const auto it = before.find(l.id);
        if (it == before.end()) out.push_back(l.name + " added");
        else {
            const auto changes = light_changes(*it->second, l);
            out.insert(out.end(), changes.begin(), changes.end());
            before.erase(it);
        }
    }
    for (const auto& [id, l] : before)
        out.push_back(l->name + " deleted");
    if (from.view.width != to.view.width || from.view.height != to.view.height)
        out.push_back("picture " + std::to_string(from.view.width) + "x" + std::to_string(from.view.height) + " \u2192 " + std::to_string(to.view.width) + "x" +
                      std::to_string(to.view.height));
    if (from.view.stereo != to.view.stereo) out.push_back(std::string("stereo ") + word(from.view.stereo) + " \u2192 " + word(to.view.stereo));
    if (!(from.view.camera == to.view.camera)) {
        Camera a = from.view.camera;
        a.name = to.view.camera.name;
        if (!(a == to.view.camera)) out.push_back("camera moved " + number_text(glm::length(to.view.camera.eye - from.view.camera.eye), 3) + " m");
    }
    if (from.view.seconds != to.view.seconds) out.push_back("scene time " + number_text(from.view.seconds) + " s \u2192 " + number_text(to.view.seconds) + " s");
    return out;
}

Json to_json(const Measurement& m) {
    Json passes = Json::array();
    for (std::size_t i = 0; i < m.passes.size(); ++i) {
        const PassFigure& p = m.passes[i];
        passes.push_back({{"name", p.name}, {"family", p.family}, {"medianMs", p.ms.median}, {"lowMs", p.ms.low}, {"highMs", p.ms.high},
                          {"work", to_json(p.work)}, {"samplesMs", m.passMs[i]}});
    }
    return {{"passes", passes},
            {"frame", {{"medianMs", m.frame.median}, {"lowMs", m.frame.low}, {"highMs", m.frame.high}, {"unfencedMs", m.whole.median},
                       {"unfencedLowMs", m.whole.low}, {"unfencedHighMs", m.whole.high}, {"p95Ms", m.p95}, {"p99Ms", m.p99}, {"worstMs", m.worst}, {"samplesMs", m.frameMs}}},
            {"rounds", m.rounds}, {"clock", m.clock}, {"size", {m.width, m.height}}, {"stopped", m.stopped}, {"droppedLights", m.droppedLights},
            {"droppedObjects", m.droppedObjects}, {"lightsInView", m.lightsInView}, {"lightsInScene", m.lightsInScene}};
}

Json to_json(const Comparison& c) {
    return {{"ratio", c.ratio}, {"low", c.low}, {"high", c.high}, {"verdict", word(c.verdict)}, {"smallestShown", c.smallestShown}, {"rounds", c.rounds}};
}

std::filesystem::path logbook_path(const std::filesystem::path& projectPath) { return std::filesystem::path(projectPath).replace_extension(".logbook"); }

Logbook::Logbook(std::unique_ptr<SQLite::Database> database, std::string path) : database_(std::move(database)), path_(std::move(path)) {}
Logbook::Logbook(Logbook&&) noexcept = default;
Logbook& Logbook::operator=(Logbook&&) noexcept = default;
Logbook::~Logbook() = default;

static tl::unexpected<Error> refused(const std::string& path, const std::exception& e) {
    return fail(std::string("the logbook could not be used: ") + e.what(), path, "Free space or check permissions; entries already kept are safe.");
}

Result<Logbook> Logbook::open(const std::filesystem::path& path) {
    try {
        auto db = std::make_unique<SQLite::Database>(path.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        db->setBusyTimeout(5000);
        db->exec("PRAGMA journal_mode=WAL");
        db->exec("PRAGMA synchronous=FULL");
        const int version = db->execAndGet("PRAGMA user_version").getInt();
        if (version > schemaVersion)
            return fail("was written by a newer version (" + std::to_string(version) + ")", path.string(), "Update Mirolux, or move the file away to start a new one.");
        if (version == 0) {
            SQLite::Transaction transaction(*db);
            db->exec("CREATE TABLE IF NOT EXISTS entry ("
                     "id INTEGER PRIMARY KEY AUTOINCREMENT, created TEXT NOT NULL, note TEXT NOT NULL DEFAULT '', hidden INTEGER NOT NULL DEFAULT 0,"
                     "changes TEXT NOT NULL, target TEXT NOT NULL, budget_ms REAL NOT NULL, device TEXT NOT NULL, clock TEXT NOT NULL,"
                     "median_ms REAL NOT NULL, low_ms REAL NOT NULL, high_ms REAL NOT NULL, whole_ms REAL NOT NULL, rounds INTEGER NOT NULL,"
                     "width INTEGER NOT NULL, height INTEGER NOT NULL, scene_digest TEXT NOT NULL, setup TEXT NOT NULL, lights TEXT NOT NULL,"
                     "view TEXT NOT NULL, measurement TEXT NOT NULL, thumbnail BLOB NOT NULL)");
            db->exec("PRAGMA user_version=1");
            transaction.commit();
        }
        return Logbook(std::move(db), path.string());
    } catch (const std::exception& e) {
        return fail(std::string("cannot be opened as a logbook: ") + e.what(), path.string(), "Move the file away and a new logbook is started.");
    }
}

static State state_from(const std::string& setup, const std::string& lights, const std::string& view) {
    State state;
    const Json s = Json::parse(setup), l = Json::parse(lights), v = Json::parse(view);
    state.setup = setup_from_json(JsonCursor(s));
    const JsonCursor list(l);
    for (std::size_t i = 0; i < list.size(); ++i)
        state.lights.push_back(light_from_json(list.at(i)));
    state.view = view_from_json(JsonCursor(v));
    return state;
}

Result<std::int64_t> Logbook::add(const State& state, const Measurement& m, const DeviceInfo& device, const Target& target, const std::string& digest) {
    try {
        SQLite::Transaction transaction(*database_);
        Json changes = Json::array();
        {
            SQLite::Statement last(*database_, "SELECT setup, lights, view FROM entry WHERE hidden=0 ORDER BY id DESC LIMIT 1");
            if (last.executeStep())
                changes = describe_changes(state_from(last.getColumn(0).getString(), last.getColumn(1).getString(), last.getColumn(2).getString()), state);
            else changes.push_back("First entry");
        }
        Json lights = Json::array();
        for (const Light& l : state.lights)
            lights.push_back(mirolux::to_json(l));
        const auto png = m.thumbnail.empty() ? std::vector<std::uint8_t>{} : encode_png(m.thumbnail);
        SQLite::Statement insert(*database_, "INSERT INTO entry(created,changes,target,budget_ms,device,clock,median_ms,low_ms,high_ms,whole_ms,rounds,width,height,"
                                             "scene_digest,setup,lights,view,measurement,thumbnail) VALUES(?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)");
        int i = 1;
        insert.bind(i++, utc_now());
        insert.bind(i++, changes.dump());
        insert.bind(i++, target.name);
        insert.bind(i++, budget_ms(target));
        insert.bind(i++, device.renderer);
        insert.bind(i++, m.clock);
        insert.bind(i++, m.frame.median);
        insert.bind(i++, m.frame.low);
        insert.bind(i++, m.frame.high);
        insert.bind(i++, m.whole.median);
        insert.bind(i++, m.rounds);
        insert.bind(i++, m.width);
        insert.bind(i++, m.height);
        insert.bind(i++, digest);
        insert.bind(i++, mirolux::to_json(state.setup).dump());
        insert.bind(i++, lights.dump());
        insert.bind(i++, mirolux::to_json(state.view).dump());
        insert.bind(i++, to_json(m).dump());
        insert.bind(i++, png.data(), static_cast<int>(png.size()));
        insert.exec();
        const std::int64_t id = database_->getLastInsertRowid();
        transaction.commit();
        return id;
    } catch (const ReadFailure& f) {
        return fail("the newest entry cannot be read: " + f.what, path_ + "#" + f.pointer, "Delete that entry and log again.");
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<std::vector<Entry>> Logbook::entries() const {
    try {
        std::vector<Entry> out;
        SQLite::Statement q(*database_, "SELECT id,created,note,changes,target,budget_ms,device,clock,median_ms,low_ms,high_ms,whole_ms,rounds,width,height,scene_digest,thumbnail "
                                        "FROM entry WHERE hidden=0 ORDER BY id DESC");
        while (q.executeStep()) {
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
            const auto blob = q.getColumn(16);
            const auto* bytes = static_cast<const std::uint8_t*>(blob.getBlob());
            if (bytes) e.thumbnail.assign(bytes, bytes + blob.getBytes());
            out.push_back(std::move(e));
        }
        return out;
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

Result<State> Logbook::state(std::int64_t id) const {
    try {
        SQLite::Statement q(*database_, "SELECT setup, lights, view FROM entry WHERE id=?");
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
        SQLite::Statement q(*database_, "SELECT measurement FROM entry WHERE id=?");
        q.bind(1, id);
        if (!q.executeStep()) return fail("has no entry " + std::to_string(id), path_);
        return q.getColumn(0).getString();
    } catch (const std::exception& e) {
        return refused(path_, e);
    }
}

static Result<void> change(SQLite::Database& db, const std::string& path, const char* sql, const std::string* text, std::int64_t id) {
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

Result<void> Logbook::annotate(std::int64_t id, const std::string& note) { return change(*database_, path_, "UPDATE entry SET note=? WHERE id=?", &note, id); }
Result<void> Logbook::remove(std::int64_t id) { return change(*database_, path_, "UPDATE entry SET hidden=1 WHERE id=?", nullptr, id); }
Result<void> Logbook::bring_back(std::int64_t id) { return change(*database_, path_, "UPDATE entry SET hidden=0 WHERE id=?", nullptr, id); }

} // namespace mirolux
