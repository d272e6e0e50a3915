#include "fuzz/targets.h"
#include "support/processes.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>

using namespace mirolux;
using namespace mirolux::test;

// A short seeded run with every test. ./run-tests --fuzz MINUTES attacks the same targets with coverage-guided inputs
// under the sanitizers; --asan holds these inputs against every read and write.
class fuzz_test : public QObject {
    Q_OBJECT
    /// Bytes flipped, runs doubled, dropped or swapped, numbers made large: what breaks readers.
    static fuzz::Bytes mutated(fuzz::Bytes b, std::mt19937& r) {
        static const std::string words[] = {"-1", "1e999", "99999999999", "null",       "[]",
                                            "{}", "\"\"",  "NaN",         "4294967296", "true"};
        for (int n = 1 + static_cast<int>(r() % 4); n > 0 && !b.empty(); --n) {
            const std::size_t at = r() % b.size(), run = std::min<std::size_t>(b.size() - at, 1 + r() % 24);
            switch (r() % 6) {
            case 0:
                b[at] ^= static_cast<std::uint8_t>(1u << (r() % 8));
                break;
            case 1:
                b.erase(b.begin() + static_cast<std::ptrdiff_t>(at), b.begin() + static_cast<std::ptrdiff_t>(at + run));
                break;
            case 2: {
                const fuzz::Bytes copy(b.begin() + static_cast<std::ptrdiff_t>(at),
                                       b.begin() + static_cast<std::ptrdiff_t>(at + run));
                b.insert(b.begin() + static_cast<std::ptrdiff_t>(r() % b.size()), copy.begin(), copy.end());
                break;
            }
            case 3: { // a number, where there is one
                std::size_t digit = at;
                while (digit < b.size() && !std::isdigit(b[digit]))
                    ++digit;
                std::size_t end = digit;
                while (end < b.size() && std::isdigit(b[end]))
                    ++end;
                const std::string& word = words[r() % std::size(words)];
                b.erase(b.begin() + static_cast<std::ptrdiff_t>(digit), b.begin() + static_cast<std::ptrdiff_t>(end));
                b.insert(b.begin() + static_cast<std::ptrdiff_t>(digit), word.begin(), word.end());
                break;
            }
            case 4:
                b.resize(at);
                break;
            default:
                b[at] = static_cast<std::uint8_t>(r());
                break;
            }
        }
        return b;
    }

private slots:
    void bytes_of_any_kind_end_in_a_value_or_in_one_error_data() {
        QTest::addColumn<int>("target");
        for (std::size_t i = 0; i < fuzz::targets().size(); ++i)
            QTest::newRow(fuzz::targets()[i].name) << static_cast<int>(i);
    }
    void bytes_of_any_kind_end_in_a_value_or_in_one_error() {
        QFETCH(int, target);
        const fuzz::Target& t = fuzz::targets()[static_cast<std::size_t>(target)];
        const auto seeds = t.seeds();
        QVERIFY(!seeds.empty());
        QTemporaryDir folder;
        std::mt19937 random(17);
        for (const fuzz::Bytes& seed : seeds) // what is good is taken as it is
            t.run(seed, folder.path().toStdString());
        for (int n = rounds(t.inputs, std::max(t.inputs, t.longInputs)); n > 0; --n)
            t.run(mutated(seeds[random() % seeds.size()], random), folder.path().toStdString());
    }
};

MIROLUX_TEST(fuzz_test)
#include "fuzz_test.moc"
