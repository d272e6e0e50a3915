#include "core/help/help.h"
#include "core/plan/settings.h"
#include "core/technique/technique.h"
#include "support/test_main.h"
#include <QtTest>
#include <set>

using namespace mirolux;

class help_test : public QObject {
    Q_OBJECT
    static bool first_few(const std::string& query, const std::string& id, std::size_t few) {
        const auto found = search_help(query);
        for (std::size_t i = 0; i < std::min(found.size(), few); ++i)
            if (found[i]->id == id) return true;
        return false;
    }

private slots:
    /// Over the declarations: every setting, layer and counter has a page that says what it does.
    void every_declaration_has_a_page() {
        for (const Setting& s : all_settings()) {
            const HelpPage* page = find_help(s.key);
            QVERIFY2(page, s.key.c_str());
            QCOMPARE(page->title, s.label);
            QVERIFY(page->body.find(s.help) != std::string::npos && page->body.find(s.key) != std::string::npos);
            for (const std::string& choice : s.choices)
                QVERIFY2(page->body.find(choice) != std::string::npos, choice.c_str());
            QVERIFY2(page->body.find("#### ") != std::string::npos, (s.key + " has no topic").c_str());
        }
        for (const LayerInfo& l : all_layers())
            QVERIFY2(find_help("layer:" + l.name), l.name.c_str());
        for (const Counter& c : all_counters())
            QVERIFY2(find_help("counter:" + c.name), c.name.c_str());
        std::set<std::string> ids;
        for (const HelpPage& p : help_pages()) {
            QVERIFY2(!p.title.empty() && p.body.size() > 15, p.id.c_str());
            QVERIFY2(ids.insert(p.id).second, p.id.c_str());
        }
    }

    /// What topics name is there: keys are settings, and none of them is explained twice.
    void topics_name_settings_that_exist() {
        std::set<std::string> explained;
        for (const auto& [name, text] : help_topics()) {
            const auto from = text.find("Keys:"), to = text.find('\n', from);
            QVERIFY2(from != std::string::npos && text.starts_with("# "), name.c_str());
            const QStringList keys = QString::fromStdString(text.substr(from + 5, to - from - 5)).split(',');
            for (const QString& key : keys) {
                if (key.trimmed().isEmpty()) continue;
                QVERIFY2(setting_index(key.trimmed().toStdString()) >= 0, qPrintable(key));
                QVERIFY2(explained.insert(key.trimmed().toStdString()).second, qPrintable(key));
            }
        }
        QCOMPARE(explained.size(), all_settings().size());
    }

    /// By label, by key, and by the words of its help.
    void search_finds_each_by_label_key_and_words() {
        for (const Setting& s : all_settings()) {
            QVERIFY2(first_few(s.label, s.key, 4), s.label.c_str());
            QVERIFY2(first_few(s.key, s.key, 1), s.key.c_str());
            QString help = QString::fromStdString(s.help);
            help.replace(QRegularExpression("[^A-Za-z0-9-]"), " ");
            QStringList words = help.split(' ', Qt::SkipEmptyParts);
            const std::string some = words.mid(0, 5).join(' ').toStdString();
            const auto found = search_help(some);
            QVERIFY2(std::any_of(found.begin(), found.end(), [&](const HelpPage* p) { return p->id == s.key; }),
                     (s.key + ": " + some).c_str());
        }
        QVERIFY(first_few("two-step", "volumes.form", 3));
        QVERIFY(first_few("volumetric", "topic:cells-of-air", 3));
        QVERIFY(search_help("").empty() && search_help("no such word anywhere").empty());
        const std::vector<HelpPage> more = {{"command:x", "Zephyr", "blows", ""}};
        QCOMPARE(search_help("zephyr", more).front()->id, std::string("command:x"));
    }
};

MIROLUX_TEST(help_test)
#include "help_test.moc"
