#include "core/cost/markup.h"
#include "core/cost/profile_check.h"
#include "support/test_main.h"
#include <QXmlStreamReader>
#include <QtTest>

using namespace mirolux;

/// The writer of reports, read back by a parser that knows nothing of it.
class markup_test : public QObject {
    Q_OBJECT

    struct Read {
        QStringList elements; // in order, with what depth they lie at
        QString text;
        QMap<QString, QString> attributes;
        bool whole = false;
    };
    static Read read(const std::string& written) {
        Read r;
        QXmlStreamReader xml(QString::fromStdString(written));
        int depth = 0;
        while (!xml.atEnd()) {
            switch (xml.readNext()) {
            case QXmlStreamReader::StartElement:
                r.elements << QString("%1%2").arg(depth++).arg(xml.name());
                for (const QXmlStreamAttribute& a : xml.attributes())
                    r.attributes[a.name().toString()] = a.value().toString();
                break;
            case QXmlStreamReader::EndElement:
                --depth;
                break;
            case QXmlStreamReader::Characters:
                r.text += xml.text();
                break;
            default:
                break;
            }
        }
        r.whole = !xml.hasError() && depth == 0;
        return r;
    }

private slots:
    void what_is_put_in_comes_back_to_the_character() {
        for (const std::string nasty : {"a < b && c > d", "</td><script>alert(1)</script>", "\"quoted\" 'single'",
                                        "&amp; is written & meant", "\u2192 5 % {not a field}"}) {
            Markup m;
            m.put("p", nasty, {{"title", nasty}});
            const Read r = read(m.written());
            QVERIFY2(r.whole, m.written().c_str());
            QCOMPARE(r.elements, QStringList{"0p"});
            QCOMPARE(r.text.toStdString(), nasty);
            QCOMPARE(r.attributes["title"].toStdString(), nasty);
        }
    }

    void elements_end_where_their_scope_does() {
        Markup m;
        {
            const auto table = m.open("table");
            m.row("th", {"a", "b"});
            {
                const auto tr = m.open("tr", {{"class", "step"}});
                const auto td = m.open("td");
                m.mark("br").list({"one", "two"}).list({});
            }
            m.row("td", {});
        }
        const Read r = read(m.written());
        QVERIFY(r.whole);
        QCOMPARE(r.elements,
                 (QStringList{"0table", "1tr", "2th", "2th", "1tr", "2td", "3br", "3ul", "4li", "4li", "1tr"}));
    }

    void numbers_are_written_to_a_tenth_and_long_texts_whole() {
        Markup m;
        const std::string longer(3000, 'x');
        m.put("text", longer, {{"x", 12.3456}, {"y", -0.04}, {"class", "n"}});
        const Read r = read(m.written());
        QCOMPARE(r.attributes["x"], QString("12.3"));
        QCOMPARE(r.attributes["y"].toDouble(), 0.0);
        QCOMPARE(r.attributes["class"], QString("n"));
        QCOMPARE(r.text.size(), qsizetype(3000));
    }

    void a_page_holds_its_title_its_style_and_its_body() {
        const std::string html = page("Quay & more", "p{color:#222}", [](Markup& m) { m.put("p", "body"); });
        QVERIFY(html.starts_with("<!doctype html><html lang=\"en\">") && html.ends_with("</html>\n"));
        const Read r = read(html.substr(15));
        QVERIFY(r.whole);
        QCOMPARE(r.elements, (QStringList{"0html", "1meta", "1title", "1style", "1h1", "1p"}));
        QCOMPARE(r.text, QString("Quay & morep{color:#222}Quay & morebody\n").chopped(1));
    }

    void pictures_are_held_by_their_address() {
        for (const char* bytes : {"", "a", "ab", "abc", "abcd\xff\xfe"}) {
            const QByteArray raw(bytes);
            const std::string address = data_address({raw.begin(), raw.end()});
            QCOMPARE(QByteArray::fromStdString(address), "data:image/png;base64," + raw.toBase64());
        }
    }

    /// Names of setups come from people and may be long and hold anything.
    void the_plot_of_a_calibration_escapes_and_keeps_names() {
        ProfileCheck check;
        const std::string name = "Path <forward> & " + std::string(700, 'y');
        check.setups = {{name, 20, 22}, {"b", 40, 30}};
        const Read r = read(check_svg(check, {}));
        QVERIFY(r.whole);
        QCOMPARE(r.elements.filter("circle").size(), qsizetype(2));
        QVERIFY(r.text.contains(QString::fromStdString(name) + ": predicted 20.0, measured 22.0 ms"));
    }
};

MIROLUX_TEST(markup_test)
#include "markup_test.moc"
