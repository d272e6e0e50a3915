#include "core/shadow/still_casters.h"
#include "support/test_main.h"
#include <QtTest>
#include <algorithm>
#include <map>
#include <random>

using namespace mirolux;

/// Which casters of a map are drawn anew and which are copied.
class still_casters_test : public QObject {
    Q_OBJECT
private slots:
    /// A map as the device would draw it, over random frames: kept depths and the moving casters drawn over them hold
    /// at every frame just the casters of that frame, each as it stands.
    void copies_and_moving_ones_make_the_map() {
        std::mt19937 random(7);
        for (int run = 0; run < 200; ++run) {
            CasterHistory history;
            std::map<int, std::uint64_t> kept; // what the still atlas holds: object, state
            std::map<int, std::uint64_t> scene;
            for (int o = 0; o < 12; ++o)
                scene[o] = 1;
            std::uint64_t map = 1;
            int copies = 0;
            for (int frame = 0; frame < 30; ++frame) {
                const auto what = random() % 10;
                if (what < 7) ++scene[static_cast<int>(random() % 3)]; // the same few move
                if (what == 7) scene.erase(static_cast<int>(random() % 12));
                if (what == 8) scene[static_cast<int>(random() % 12)] = 1;
                if (what == 9) ++map; // the light has moved
                std::vector<CasterState> now;
                for (const auto& [object, state] : scene)
                    now.push_back({object, state, 10});
                const CasterSplit split = split_casters(history, map, now);
                std::map<int, std::uint64_t> held;
                const auto moves = [&](int o) {
                    return std::find(split.moving.begin(), split.moving.end(), o) != split.moving.end();
                };
                if (split.apart) {
                    ++copies;
                    if (!split.keepsStill) {
                        kept.clear();
                        for (const auto& [object, state] : scene)
                            if (!moves(object)) kept[object] = state;
                    }
                    held = kept;
                    for (const auto& [object, state] : scene)
                        if (moves(object)) held[object] = state;
                } else
                    held = scene;
                QVERIFY(held == scene);
                history = split.after;
            }
            QVERIFY(copies > 0);
        }
    }

    void only_what_moves_is_drawn_from_the_second_frame_on() {
        std::vector<CasterState> now = {{1, 5, 100}, {4, 5, 100}, {9, 5, 100}};
        CasterSplit s = split_casters({}, 77, now);
        QVERIFY(!s.apart);
        now[1].state = 6;
        s = split_casters(s.after, 77, now);
        QVERIFY(s.apart && !s.keepsStill && s.moving == std::vector<int>{4});
        now[1].state = 7;
        s = split_casters(s.after, 77, now);
        QVERIFY(s.apart && s.keepsStill && s.moving == std::vector<int>{4});
        now[0].state = 8; // two of three move: more than half
        s = split_casters(s.after, 77, now);
        QVERIFY(!s.apart && s.after.still == 0);
        s = split_casters(s.after, 78, now); // another matrix
        QVERIFY(!s.apart && s.moving.empty());
    }
};

MIROLUX_TEST(still_casters_test)
#include "still_casters_test.moc"
