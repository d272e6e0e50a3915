#include "core/cost/logbook.h"
#include "core/cost/measurement_json.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QElapsedTimer>
#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// Frames of a millisecond or so, as fast as a measurement can be.
class QuickFrames final : public RenderSession {
public:
    Result<FrameRecord> render(const Scene&, const Setup&, const View& view, const RenderOptions& o) override {
        usleep(400);
        FrameRecord r;
        r.clock = "fenced";
        r.width = view.width;
        r.height = view.height;
        r.passes = {{"opaque", "opaque", {}, {}, false}, {"finish", "finish", {}, {}, false}};
        for (PassRecord& p : r.passes)
            p.ms.assign(static_cast<std::size_t>(std::max(0, o.fencedSamples)), 1.0 + 0.01 * (frame_++ % 7));
        r.wholeMs.assign(static_cast<std::size_t>(std::max(0, o.wholeSamples)), 2.0);
        return r;
    }
    Result<DeviceInfo> device() override { return DeviceInfo{}; }

private:
    int frame_ = 0;
};

/// A logbook as version 1 wrote it, with two entries, one of them hidden.
void write_first_version(const std::filesystem::path& path, const State& state, const Measurement& m) {
    SQLite::Database db(path.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
    db.exec("CREATE TABLE entry (id INTEGER PRIMARY KEY AUTOINCREMENT, created TEXT NOT NULL, note TEXT NOT NULL "
            "DEFAULT '', hidden INTEGER NOT NULL DEFAULT 0,"
            "changes TEXT NOT NULL, target TEXT NOT NULL, budget_ms REAL NOT NULL, device TEXT NOT NULL, clock TEXT "
            "NOT NULL,"
            "median_ms REAL NOT NULL, low_ms REAL NOT NULL, high_ms REAL NOT NULL, whole_ms REAL NOT NULL, rounds "
            "INTEGER NOT NULL,"
            "width INTEGER NOT NULL, height INTEGER NOT NULL, scene_digest TEXT NOT NULL, setup TEXT NOT NULL, lights "
            "TEXT NOT NULL,"
            "view TEXT NOT NULL, measurement TEXT NOT NULL, thumbnail BLOB NOT NULL)");
    Json lights = Json::array();
    for (const Light& l : state.lights)
        lights.push_back(to_json(l));
    for (const int hidden : {0, 1}) {
        SQLite::Statement q(db, "INSERT INTO "
                                "entry(created,note,hidden,changes,target,budget_ms,device,clock,median_ms,low_ms,high_"
                                "ms,whole_ms,rounds,width,height,scene_digest,setup,lights,view,measurement,thumbnail) "
                                "VALUES('2031-02-03T04:05:06Z','mine',?,'[\"First entry\"]','Desk',16.5,'some "
                                "device','fenced',20.5,20,21,19.5,7,64,36,'digest',?,?,?,?,x'0102')");
        q.bind(1, hidden);
        q.bind(2, to_json(state.setup).dump());
        q.bind(3, lights.dump());
        q.bind(4, to_json(state.view).dump());
        q.bind(5, to_json(m).dump());
        q.exec();
    }
    db.exec("PRAGMA user_version=1");
}

} // namespace

class logbook_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) const {
        return std::filesystem::path(folder_.path().toStdString()) / name;
    }

    static Measurement made_measurement(double ms) {
        Measurement m;
        m.passes = {{"opaque", "opaque", {ms, ms * 0.9, ms * 1.1}, made_work()}};
        m.passMs = {{ms, ms, ms}};
        m.frameMs = {ms, ms, ms};
        m.frame = {ms, ms * 0.9, ms * 1.1};
        m.rounds = 3;
        m.width = 64;
        m.height = 36;
        m.clock = "fenced";
        m.thumbnail = {4, 2, std::vector<std::uint8_t>(32, 128)};
        return m;
    }
    static Work made_work() {
        Work w;
        w.set("draws", 10);
        w.set("fragments", 30);
        return w;
    }
    static State made_state(int lights) {
        State s;
        s.lights = random_scene(1, lights).lights;
        return s;
    }

private slots:
    void logbook_keeps_entries_and_says_what_changed() {
        std::filesystem::remove(file("a.logbook"));
        auto book = Logbook::open(file("a.logbook"));
        QVERIFY(book.has_value());
        State s = made_state(5);
        const Target target = plain_target("Desk", 64, 36, 16.67);
        QVERIFY(book->add(s, made_measurement(20), {}, target, "d").has_value());
        QVERIFY(s.setup.set("path.maxLights", 16).has_value());
        s.lights[2].position += glm::vec3(3, 0, 4);
        s.lights.pop_back();
        ObjectEdit moved{"crane", "crane"};
        moved.translation = {0, 3, 4};
        s.objects = {moved};
        const auto second = book->add(s, made_measurement(15), {}, target, "d");
        QVERIFY(second.has_value());
        auto entries = book->entries();
        QVERIFY(entries.has_value());
        QCOMPARE(entries->size(), std::size_t(2));
        const auto& changes = entries->front().changes;
        QVERIFY(std::find(changes.begin(), changes.end(), "Lights an object (K) 8 \u2192 16") != changes.end());
        QVERIFY(std::find(changes.begin(), changes.end(), "light 2 moved 5 m") != changes.end());
        QVERIFY(std::find(changes.begin(), changes.end(), "light 4 deleted") != changes.end());
        QVERIFY(std::find(changes.begin(), changes.end(), "crane 5 m placed anew") != changes.end());
        QVERIFY(*book->state(*second) == s);
        QVERIFY(book->state(second.value() - 1)->objects.empty());
        QVERIFY(book->annotate(*second, "better").has_value());
        QVERIFY(book->remove(*second).has_value());
        QCOMPARE(book->entries()->size(), std::size_t(1));
        QVERIFY(book->bring_back(*second).has_value());
        QCOMPARE(book->entries()->front().note, std::string("better"));
        QVERIFY(!book->remove(12345).has_value());
    }

    void a_file_that_is_no_logbook_is_refused() {
        QVERIFY(write_file_atomically(file("no.logbook"), std::string(5000, 'x')).has_value());
        const auto book = Logbook::open(file("no.logbook"));
        QVERIFY(!book.has_value() && !book.error().remedy.empty());
    }

    /// A child writes entries as fast as it can and is killed at a random moment, twenty times over: the file opens and
    /// holds whole entries.
    void logbook_survives_a_kill_in_the_middle_of_writing() {
        const auto path = file("killed.logbook");
        std::mt19937 random(5);
        std::size_t before = 0;
        for (int round = 0; round < 20; ++round) {
            const pid_t child = fork();
            if (child == 0) {
                auto book = Logbook::open(path);
                if (!book) _exit(1);
                for (int i = 0; i < 100000; ++i)
                    (void)book->add(made_state(60), made_measurement(i), {}, {}, "d");
                _exit(0);
            }
            usleep(20000 + random() % 60000);
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            auto book = Logbook::open(path);
            QVERIFY2(book.has_value(), book ? "" : to_text(book.error()).c_str());
            auto entries = book->entries();
            QVERIFY(entries.has_value());
            QVERIFY(entries->size() >= before);
            for (const Entry& e : *entries)
                QVERIFY(e.frame.median >= 0 && !e.thumbnail.empty() && e.rounds == 3);
            if (!entries->empty()) QVERIFY(book->state(entries->front().id).has_value());
            before = entries->size();
        }
        QVERIFY(before > 5);
    }

    void the_first_version_is_brought_up_to_date_without_loss() {
        const auto path = file("first.logbook");
        State state = made_state(4);
        QVERIFY(state.setup.set("path.maxLights", 12).has_value());
        write_first_version(path, state, made_measurement(20));
        for (int again = 0; again < 2; ++again) { // the second time nothing is left to do
            auto book = Logbook::open(path);
            QVERIFY2(book.has_value(), book ? "" : to_text(book.error()).c_str());
            const auto entries = book->entries();
            QCOMPARE(entries->size(), std::size_t(1));
            const Entry& e = entries->front();
            QCOMPARE(e.id, 1);
            QCOMPARE(e.note, std::string("mine"));
            QCOMPARE(e.created, std::string("2031-02-03T04:05:06Z"));
            QCOMPARE(e.changes, std::vector<std::string>{"First entry"});
            QVERIFY(e.frame.median == 20.5 && e.frame.low == 20 && e.frame.high == 21 && e.whole.median == 19.5 &&
                    e.rounds == 7 && e.width == 64 && e.budgetMs == 16.5);
            QCOMPARE(e.setupDigest, setup_digest(state.setup));
            QCOMPARE(e.thumbnail, (std::vector<std::uint8_t>{1, 2}));
            QVERIFY(*book->state(1) == state);
            QCOMPARE(Json::parse(*book->measurement_json(1))["rounds"].get<int>(), 3);
            QCOMPARE(book->points()->front().at, std::int64_t(1927857906)); // 2031-02-03T04:05:06Z
            QVERIFY(book->bring_back(2).has_value());
            QCOMPARE(book->entries()->size(), std::size_t(2));
            QVERIFY(book->remove(2).has_value());
        }
        SQLite::Database raw(path.string());
        QCOMPARE(raw.execAndGet("PRAGMA user_version").getInt(), Logbook::schema_version);
    }

    /// Setups are kept whole: a default that changes later does not rewrite what was measured.
    void setups_are_kept_whole_and_old_ones_are_made_whole() {
        const auto path = file("whole.logbook");
        auto book = Logbook::open(path);
        State s = made_state(2);
        QVERIFY(s.setup.set("path.maxLights", 3).has_value());
        QVERIFY(book->add(s, made_measurement(10), {}, plain_target("Desk", 64, 36, 16), "a").has_value());
        SQLite::Database raw(path.string(), SQLite::OPEN_READWRITE);
        const auto stored = [&] { return Json::parse(raw.execAndGet("SELECT setup FROM detail").getString()); };
        QCOMPARE(stored().size(), all_settings().size());
        // As version 2 left it: differences only.
        raw.exec("UPDATE detail SET setup='{\"path.maxLights\":3}'; UPDATE entry SET setup_digest='old'; PRAGMA "
                 "user_version=2");
        book = Logbook::open(path);
        QVERIFY(book.has_value());
        QCOMPARE(stored().size(), all_settings().size());
        QVERIFY(*book->state(1) == s);
        QCOMPARE(book->entries()->front().setupDigest, setup_digest(s.setup));
    }

    /// What cannot be read of one entry stands in nobody's way.
    void an_unreadable_entry_blocks_nothing_and_loses_nothing() {
        const auto path = file("unreadable.logbook");
        auto book = Logbook::open(path);
        State s = made_state(2);
        QVERIFY(book->add(s, made_measurement(10), {}, plain_target("Desk", 64, 36, 16), "a").has_value());
        SQLite::Database raw(path.string(), SQLite::OPEN_READWRITE);
        for (const char* broken : {"[1,2]", "not JSON"}) {
            SQLite::Statement damage(raw, "UPDATE detail SET setup=?");
            damage.bind(1, broken);
            damage.exec();
            const auto id = book->add(s, made_measurement(11), {}, plain_target("Desk", 64, 36, 16), "a");
            QVERIFY2(id.has_value(), id ? "" : to_text(id.error()).c_str());
            QVERIFY(book->entries()->front().changes.front().find("cannot be read") != std::string::npos);
        }
        // Rounds of a process that is no more, whose state cannot be read: kept for a build that can.
        raw.exec("INSERT INTO run(process,created,target,budget_ms,device,scene_digest,setup,lights,view) "
                 "VALUES(999999999,'2031-01-01T00:00:00Z','Desk',16,'d','a','[7]','[]','{}')");
        raw.exec("INSERT INTO round(run,number,clock,whole_ms,passes) VALUES((SELECT MAX(id) FROM "
                 "run),1,'fenced',1.0,'[]')");
        QVERIFY(Logbook::open(path).has_value());
        QCOMPARE(raw.execAndGet("SELECT COUNT(*) FROM round").getInt(), 1);
    }

    void settings_of_another_build_are_kept_and_shown_as_unknown() {
        const auto path = file("unknown.logbook");
        auto book = Logbook::open(path);
        State s = made_state(2);
        QVERIFY(book->add(s, made_measurement(10), {}, plain_target("Desk", 64, 36, 16), "a").has_value());
        SQLite::Database raw(path.string(), SQLite::OPEN_READWRITE);
        raw.exec("UPDATE detail SET setup=json_set(setup, '$.\"teapot.spouts\"', 3, '$.\"path.kind\"', 'by-magic')");
        const auto state = book->state(1);
        QVERIFY(state.has_value());
        QCOMPARE(state->unknown.at("teapot.spouts"), std::string("3"));
        QCOMPARE(state->unknown.at("path.kind"), std::string("by-magic"));
        QVERIFY(book->add(*state, made_measurement(10), {}, plain_target("Desk", 64, 36, 16), "a").has_value());
        QCOMPARE(book->state(2)->unknown, state->unknown);
        const auto said = describe_changes(s, *state);
        QVERIFY(std::any_of(said.begin(), said.end(),
                            [](const std::string& line) { return line.find("unknown setting teapot.spouts 3") == 0; }));
    }

    void a_disk_that_is_full_does_not_make_a_good_logbook_a_damaged_one() {
        const auto folder = file("locked");
        std::filesystem::create_directories(folder);
        const auto nowhere = Logbook::open(folder / "no" / "such" / "folder.logbook");
        QVERIFY(!nowhere.has_value());
        QVERIFY2(nowhere.error().remedy.find("Nothing is lost") != std::string::npos, nowhere.error().remedy.c_str());
        const auto damaged = file("damaged.logbook");
        QVERIFY(write_file_atomically(damaged, std::string(4096, 'x')).has_value());
        QVERIFY(Logbook::open(damaged).error().remedy.find("Move the file away") != std::string::npos);
    }

    void fading_lights_are_said_in_words() {
        State a = made_state(3), b = a;
        b.lights[1].fadeInner = 10;
        b.lights[1].fadeOuter = 25;
        const auto said = describe_changes(a, b);
        QCOMPARE(said.size(), std::size_t(2));
        QVERIFY2(said[1].find("fade to the setup's \u2192 25 m") != std::string::npos, said[1].c_str());
        b = a;
        b.lights[1].sourceSize = 0.25f;
        const auto size = describe_changes(a, b);
        QVERIFY2(size.size() == 1 && size[0].find("source size 0 m \u2192 0.25 m") != std::string::npos,
                 size[0].c_str());
    }

    void entries_are_found_by_setup_scene_device_and_target() {
        auto book = Logbook::open(file("query.logbook"));
        QVERIFY(book.has_value());
        State s = made_state(2);
        DeviceInfo one, other;
        one.renderer = "one";
        other.renderer = "other";
        for (int i = 0; i < 12; ++i) {
            QVERIFY(s.setup.set("path.maxLights", 2 + i % 3).has_value());
            QVERIFY(book->add(s, made_measurement(10 + i), i % 2 ? one : other,
                              plain_target(i % 4 ? "Desk" : "Small", 64, 36, 16), i < 6 ? "a" : "b")
                        .has_value());
        }
        const auto count = [&](EntryQuery q) { return book->entries(q)->size(); };
        QCOMPARE(count({"one", "", "", "", -1}), std::size_t(6));
        QCOMPARE(count({"one", "a", "", "", -1}), std::size_t(3));
        QCOMPARE(count({"", "", setup_digest(s.setup), "", -1}), std::size_t(4));
        QCOMPARE(count({"", "", "", "Small", -1}), std::size_t(3));
        QCOMPARE(count({"", "", "", "", 5}), std::size_t(5));
        QCOMPARE(count({"nobody", "", "", "", -1}), std::size_t(0));
    }

    void comparisons_and_walks_are_kept_beside_the_entries() {
        auto book = Logbook::open(file("records.logbook"));
        Setup a, b;
        QVERIFY(b.set("path.maxLights", 3).has_value());
        QVERIFY(book->keep_record("pair", "one", "d", a, {{"comparison", {{"ratio", 0.5}}}}).has_value());
        QVERIFY(book->keep_record("walk", "one", "d", b, {{"p95Ms", 12.5}}).has_value());
        QCOMPARE(book->records("")->size(), std::size_t(2));
        QCOMPARE(book->records("walk")->front().setupDigest, setup_digest(b));
        QCOMPARE(Json::parse(book->records("pair")->front().document)["comparison"]["ratio"].get<double>(), 0.5);
        QCOMPARE(book->records("", {"other", "", "", "", -1})->size(), std::size_t(0));
        QCOMPARE(book->records("", {"", "", setup_digest(a), "", -1})->size(), std::size_t(1));
        QVERIFY(book->entries()->empty());
    }

    /// A measurement that keeps its rounds is killed at random moments, fifty times: what its rounds had reached is
    /// there, or one more.
    void a_kill_loses_at_most_the_round_under_way() {
        const auto path = file("rounds.logbook");
        std::mt19937 random(9);
        std::size_t before = 0;
        int withRounds = 0;
        for (int turn = 0; turn < 50; ++turn) {
            int ends[2];
            QVERIFY(pipe(ends) == 0);
            const pid_t child = fork();
            if (child == 0) {
                auto book = Logbook::open(path);
                if (!book) _exit(1);
                QuickFrames session;
                const State state = made_state(30);
                auto run = book->begin_run({state, {}, plain_target("Desk", 64, 36, 16), "d"});
                MeasureOptions o;
                o.rounds = 1000000;
                int kept = 0;
                o.kept = [&](const RoundSample& s) {
                    if (!book->keep_round(*run, s)) _exit(1);
                    ++kept;
                    (void)!write(ends[1], &kept, sizeof kept);
                };
                (void)measure(session, {}, state.setup, state.view, o);
                _exit(0);
            }
            ::close(ends[1]);
            usleep(5000 + random() % 90000);
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            int reached = 0, next = 0;
            while (read(ends[0], &next, sizeof next) == sizeof next)
                reached = next;
            ::close(ends[0]);
            auto book = Logbook::open(path);
            QVERIFY2(book.has_value(), book ? "" : to_text(book.error()).c_str());
            SQLite::Database raw(path.string());
            QCOMPARE(raw.execAndGet("PRAGMA integrity_check").getString(), std::string("ok"));
            QCOMPARE(raw.execAndGet("SELECT COUNT(*) FROM run").getInt(), 0);
            QCOMPARE(raw.execAndGet("SELECT COUNT(*) FROM round").getInt(), 0);
            const auto entries = book->entries();
            QVERIFY(entries.has_value());
            if (reached == 0) {
                QVERIFY(entries->size() <= before + 1);
            } else {
                ++withRounds;
                QCOMPARE(entries->size(), before + 1);
                const Entry& e = entries->front();
                QVERIFY(e.recovered);
                QVERIFY2(e.rounds == reached || e.rounds == reached + 1,
                         qPrintable(QString("%1 kept, %2 reached").arg(e.rounds).arg(reached)));
                QVERIFY(e.frame.median > 1.9 && e.frame.median < 2.2);
                QVERIFY(book->state(e.id).has_value());
            }
            before = entries->size();
        }
        QVERIFY2(withRounds > 10, // enough that the test is about something, however slow the machine
                 qPrintable(QString::number(withRounds)));
    }

    void a_hundred_thousand_entries_open_at_once() {
        const auto path = file("long.logbook");
        {
            auto book = Logbook::open(path);
            Measurement m = made_measurement(20);
            m.thumbnail = {176, 99, std::vector<std::uint8_t>(std::size_t(4) * 176 * 99, 90)};
            QVERIFY(book->add(made_state(40), m, {}, plain_target("Desk", 64, 36, 16), "d").has_value());
            SQLite::Database raw(path.string(), SQLite::OPEN_READWRITE);
            raw.exec("WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i+1 FROM n WHERE i<100000) INSERT INTO entry "
                     "SELECT i, created, at+i*60, '', 0, changes, target, budget_ms, device, clock,"
                     "20+10*sin(i/900.0), 19.5+10*sin(i/900.0), 20.5+10*sin(i/900.0), whole_ms, rounds, width, height, "
                     "scene_digest, setup_digest, 0 FROM n, entry WHERE entry.id=1");
            raw.exec("WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i+1 FROM n WHERE i<100000) INSERT INTO detail "
                     "SELECT i, setup, '[]', view, measurement, thumbnail FROM n, detail WHERE detail.entry=1");
        }
        double best = 1e9;
        for (int attempt = 0; attempt < 3; ++attempt) { // the machine may be busy for one of them
            QElapsedTimer timer;
            timer.start();
            auto book = Logbook::open(path);
            const auto points = book->points();
            QCOMPARE(points->size(), std::size_t(100000));
            std::vector<std::int64_t> shown;
            for (std::size_t i = 0; i < 20; ++i)
                shown.push_back((*points)[points->size() - 1 - i].id);
            QCOMPARE(book->entries_of(shown)->size(), std::size_t(20));
            best = std::min(best, static_cast<double>(timer.nsecsElapsed()) * 1e-6);
        }
        QVERIFY2(best < 200 || sanitized, qPrintable(QString("%1 ms").arg(best)));
        qInfo("opened, 100,000 points and 20 entries read in %.0f ms", best);
    }
};

MIROLUX_TEST(logbook_test)
#include "logbook_test.moc"
