#include "core/base/error.h"
#include "core/base/text.h"
#include "core/io/json_cursor.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;

class text_test : public QObject {
    Q_OBJECT
private slots:
    void numbers_are_short_and_plain() {
        QCOMPARE(number_text(16.6667), std::string("16.67"));
        QCOMPARE(number_text(0.5), std::string("0.5"));
        QCOMPARE(number_text(26000), std::string("26000"));
        QCOMPARE(number_text(1234567, 3), std::string("1234567"));
        QCOMPARE(number_text(0), std::string("0"));
    }

    void the_nearest_words_come_first_and_strangers_not_at_all() {
        const std::vector<std::string> keys = {"path.kind", "path.maxLights", "tone.curve", "exposure.ev100"};
        QCOMPARE(nearest_words("path.maxlight", keys).front(), std::string("path.maxLights"));
        QCOMPARE(nearest_words("tone.curv", keys).front(), std::string("tone.curve"));
        QVERIFY(nearest_words("zzzzzzzzzzzzzzzzzzzz", keys).empty());
        QVERIFY(nearest_words("path", {"a", "b", "path1", "path2", "path3", "path4"}).size() == 3);
    }

    void digest_is_fnv_1a() {
        Digest d;
        d.add("a", 1);
        QCOMPARE(d.hex(), std::string("af63dc4c8601ec8c")); // the published value
    }

    void an_error_says_place_what_and_remedy_once() {
        QCOMPARE(to_text(Error{"is cut short", "a.glb", "Export it again."}),
                 std::string("a.glb: is cut short. Export it again."));
        QCOMPARE(to_text(Error{"no device", "", ""}), std::string("no device."));
    }

    void a_cursor_names_its_place() {
        const Json j = Json::parse(R"({"list": [{"n": -3, "text": 5}], "flag": "yes", "v": [1, 2, "x"]})");
        const JsonCursor root(j);
        auto place = [](const std::function<void()>& read) {
            try {
                read();
            } catch (const ReadFailure& f) {
                return f.pointer;
            }
            return std::string("no complaint");
        };
        QCOMPARE(place([&] { (void)root.list("list").at(0)["n"].whole(10); }), std::string("/list/0/n"));
        QCOMPARE(place([&] { (void)root.list("list").at(0)["text"].text(); }), std::string("/list/0/text"));
        QCOMPARE(place([&] { (void)root.list("list").at(1); }), std::string("/list"));
        QCOMPARE(place([&] { (void)root.flag("flag", false); }), std::string("/flag"));
        QCOMPARE(place([&] { (void)root["v"].vector<3>(); }), std::string("/v/2"));
        QCOMPARE(place([&] { (void)root["absent"]; }), std::string("/"));
        QCOMPARE(place([&] { (void)root.number("absent", 1.5); }), std::string("no complaint"));
    }
};

MIROLUX_TEST(text_test)
#include "text_test.moc"
