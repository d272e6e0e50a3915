#include "fuzz/targets.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;
using namespace mirolux::test;

// A short seeded run with every test; MIROLUX_FUZZ_MINUTES (./run-tests --fuzz MINUTES) makes it a long one with seeds
// of its own. Under the sanitizers (./run-tests --asan) the same inputs are held against every read and write.
class fuzz_test : public QObject {
    Q_OBJECT
    using Target = void (*)(const fuzz::Bytes&, const std::filesystem::path&);

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

    static fuzz::Bytes bytes_of(const std::string& text) { return {text.begin(), text.end()}; }

    void attack(Target target, const std::vector<fuzz::Bytes>& seeds, int inputs) {
        QTemporaryDir folder;
        const int minutes = qEnvironmentVariableIntValue("MIROLUX_FUZZ_MINUTES");
        std::mt19937 random(minutes > 0 ? static_cast<std::uint32_t>(QDateTime::currentMSecsSinceEpoch()) : 17u);
        QElapsedTimer clock;
        clock.start();
        int n = 0;
        for (; minutes > 0 ? clock.elapsed() < minutes * 60000 / 5 : n < inputs; ++n)
            target(mutated(seeds[random() % seeds.size()], random), folder.path().toStdString());
        qInfo("%d inputs", n);
    }

    static std::string read(const std::string& path) {
        const auto bytes = read_file(path);
        return bytes ? std::string(bytes->begin(), bytes->end()) : std::string();
    }

private slots:
    void scenes() {
        const std::string text =
            R"({"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"scale":[1,2,1]},{"camera":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1,"material":0}]}],"materials":[{"alphaMode":"BLEND","pbrMetallicRoughness":{"baseColorFactor":[1,0.5,0.2,1]}}],"cameras":[{"type":"perspective","perspective":{"yfov":0.7,"znear":0.1}}],"accessors":[{"bufferView":0,"componentType":5126,"type":"VEC3","count":3},{"bufferView":1,"componentType":5123,"type":"SCALAR","count":3}],"bufferViews":[{"buffer":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":6}],"buffers":[{"byteLength":42,"uri":"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAABAAIA"}]})";
        attack(fuzz::scene, {bytes_of(text)}, 1500);
    }
    void projects() { attack(fuzz::project, {bytes_of(read(MIROLUX_DEMO))}, 60); }
    void images() {
        ByteImage small{8, 8, std::vector<std::uint8_t>(256, 77)},
            noisy{31, 17, std::vector<std::uint8_t>(31 * 17 * 4)};
        std::mt19937 r(3);
        for (std::uint8_t& v : noisy.rgba)
            v = static_cast<std::uint8_t>(r());
        attack(fuzz::image, {encode_png(small), encode_png(noisy)}, 4000);
    }
    void profiles() { attack(fuzz::profile, {bytes_of(to_json(shipped_profiles().front()).dump())}, 1500); }
    void messages() {
        const Scene scene = random_scene(1, 6);
        FrameRecord record;
        record.passes.push_back({"opaque", "opaque", {1.5, 2.5}, Work::drawing(3, 4), true});
        RenderOptions options;
        options.probe = glm::ivec2(3, 4);
        const Json message = {{"record", to_json(record)},
                              {"options", to_json(options)},
                              {"view", to_json(View{})},
                              {"setup", to_json_whole(Setup())},
                              {"lights", light_patch({}, scene.lights)}};
        attack(fuzz::wire, {Json::to_cbor(message)}, 4000);
    }
};

MIROLUX_TEST(fuzz_test)
#include "fuzz_test.moc"
