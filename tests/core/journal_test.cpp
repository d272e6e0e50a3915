#include "core/cost/journal.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QXmlStreamReader>
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

static Entry entry(double ms, double half, std::initializer_list<const char*> changes,
                   const char* created = "2031-02-03T04:05:06Z") {
    Entry e;
    e.frame = {ms, ms - half, ms + half};
    for (const char* c : changes)
        e.changes.emplace_back(c);
    e.budgetMs = 16;
    e.width = 64;
    e.height = 36;
    e.rounds = 9;
    e.device = "a device";
    e.clock = "fenced";
    e.targetName = "Desk";
    e.created = created;
    return e;
}

class journal_test : public QObject {
    Q_OBJECT
private slots:
    void time_keeps_its_proportions_but_pauses_are_cut() {
        const JournalAxis a = journal_axis({0, 60, 180, 240, 100000, 100060});
        QCOMPARE(a.places.front(), 0.0);
        QCOMPARE(a.places.back(), 1.0);
        QVERIFY(std::is_sorted(a.places.begin(), a.places.end()));
        const auto step = [&](std::size_t i) { return a.places[i] - a.places[i - 1]; };
        QVERIFY(std::abs(step(2) / step(1) - 2) < 1e-9); // 120 s beside 60 s
        QVERIFY(std::abs(step(4) / step(1) - 4) < 1e-9); // the night is cut to four typical steps
        QCOMPARE(a.pauses, (std::vector<bool>{false, false, false, false, true, false}));
        QCOMPARE(journal_axis({5}).places, std::vector<double>{0.5});
        QVERIFY(journal_axis({}).places.empty());
        const JournalAxis same = journal_axis({7, 7, 7});
        QVERIFY(same.places[1] > 0 && same.places[1] < 1); // entries of one second do not lie on each other
    }

    void labels_in_one_lane_never_overlap() {
        std::mt19937 random(3);
        for (int trial = 0; trial < 40; ++trial) {
            std::vector<double> x, widths;
            double at = 0;
            for (int i = 0; i < 50; ++i) {
                x.push_back(at += random_in(random, 0, 40));
                widths.push_back(random_in(random, 10, 120));
            }
            const auto lanes = label_lanes(x, widths, 4);
            int shown = 0;
            for (std::size_t i = 0; i < x.size(); ++i)
                for (std::size_t k = 0; k < i; ++k)
                    if (lanes[i] >= 0 && lanes[i] == lanes[k]) QVERIFY(x[k] + widths[k] <= x[i] + 1e-9);
            for (const int l : lanes)
                shown += l >= 0;
            QVERIFY(shown > 10);
        }
    }

    void a_step_is_called_a_gain_only_where_the_intervals_are_apart() {
        const Entry a = entry(20, 1, {}), b = entry(15, 1, {}), c = entry(19, 1, {});
        QCOMPARE(step_verdict(a, nullptr), StepVerdict::first);
        QCOMPARE(step_verdict(b, &a), StepVerdict::faster);
        QCOMPARE(step_verdict(a, &b), StepVerdict::slower);
        QCOMPARE(step_verdict(c, &a), StepVerdict::notShown);
        QCOMPARE(step_words(b, &a), std::string("-5.00 ms (-25 %)"));
        Entry other = b;
        other.width = 32;
        QCOMPARE(step_verdict(other, &a), StepVerdict::otherSize);
        Entry named = entry(1, 0, {"one", "two"});
        QCOMPARE(step_name(named), std::string("one (+1)"));
        named.note = "mine";
        QCOMPARE(step_name(named), std::string("mine"));
    }

    void the_report_is_self_contained_escapes_and_has_no_empty_section() {
        JournalReport r;
        r.title = "Quay <1> & \"2\"";
        QVERIFY(journal_html(r).find("Nothing is logged") != std::string::npos);
        QVERIFY(journal_html(r).find("<h2>") == std::string::npos);
        r.entries = {entry(20, 1, {"First entry"})};
        r.measurements.emplace_back("{}");
        QVERIFY(journal_html(r).find("The story") == std::string::npos); // one point is no story
        QVERIFY(journal_html(r).find("From the first") == std::string::npos);
        r.entries.push_back(entry(
            12, 1, {"Path <forward> \u2192 \"deferred\" & more, a long name that has to be cut somewhere \u2192 here"},
            "2031-02-03T04:15:06Z"));
        r.measurements.emplace_back(
            R"({"passes":[{"name":"opaque","medianMs":7.5,"lowMs":7,"highMs":8,"samplesMs":[7.25,7.75]}]})");
        r.overall.emplace_back("Path forward \u2192 deferred");
        const std::string html = journal_html(r);
        for (const char* wanted :
             {"The story", "Steps", "From the first to the last", "Environment", "Raw numbers", "7.25 7.75",
              "@media print", "inside by 4.00 ms", "-8.00 ms (-40 %)", "&lt;forward&gt;"})
            QVERIFY2(html.find(wanted) != std::string::npos, wanted);
        QVERIFY(html.find("http://") == html.find("http://www.w3.org/2000/svg") &&
                html.find("<script") == std::string::npos); // nothing is fetched
        QXmlStreamReader svg(QString::fromStdString(journal_svg(r.entries, 900, 400)));
        int circles = 0;
        while (!svg.atEnd())
            circles += svg.readNext() == QXmlStreamReader::StartElement && svg.name() == u"circle";
        QVERIFY2(!svg.hasError(), qPrintable(svg.errorString()));
        QCOMPARE(circles, 2);
        const std::string csv = journal_csv(r);
        QCOMPARE(std::count(csv.begin(), csv.end(), '\n'), std::ptrdiff_t(3));
        QVERIFY(csv.find("\"\"deferred\"\"") != std::string::npos);
        QCOMPARE(journal_json(r)["entries"][1]["measurement"]["passes"][0]["medianMs"].get<double>(), 7.5);
    }
};

MIROLUX_TEST(journal_test)
#include "journal_test.moc"
