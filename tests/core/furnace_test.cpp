#include "core/ambient/furnace.h"
#include "core/ambient/split_sum.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;

class furnace_test : public QObject {
    Q_OBJECT

private slots:
    void white_lambert_and_compensated_ggx_keep_all() {
        const auto lambert = furnace_row(brdf::Model::lambert, true, 0, false);
        QCOMPARE(lambert.size(), std::size_t(1));
        QVERIFY(std::abs(lambert.front().mean() - 1) < 5e-4);
        for (const double metallic : {0.0, 1.0})
            for (const FurnaceBall& b : furnace_row(brdf::Model::ggx, true, metallic, true))
                for (const double c : {0.1, 0.5, 1.0})
                    QVERIFY2(std::abs(b.at(c) - 1) < 1e-6, qPrintable(QString("%1: %2").arg(b.width).arg(b.at(c))));
    }

    /// Of metal what one bounce loses is 1 - scale - bias; the row's mean is over the disc, where the cosine's square
    /// is even.
    void one_bounce_of_metal_loses_the_tables_integral() {
        double before = 2;
        for (const FurnaceBall& b : furnace_row(brdf::Model::ggx, true, 1, false)) {
            double table = 0;
            for (int i = 0; i < 400; ++i) {
                const SplitSum s = split_sum_table().at(std::sqrt((i + 0.5) / 400), b.width);
                table += (s.scale + s.bias) / 400;
            }
            QVERIFY2(std::abs(b.mean() - table) < 0.005, qPrintable(QString("%1 of %2").arg(b.mean()).arg(table)));
            QVERIFY(b.mean() < before); // rougher loses more
            before = b.mean();
        }
        QVERIFY(before < 0.85);
    }

    /// Phong's metal at normal view: the lobe's own integral, (n+2)/(n+1) / ... in closed form: normalised
    /// (n+2)/2pi times 2pi / (n+2) of cos^n cos, which is 1; not normalised 2 / (n+2).
    void phong_keeps_or_loses_its_closed_form() {
        for (const bool normalised : {true, false})
            for (const FurnaceBall& b : furnace_row(brdf::Model::phong, normalised, 1, false)) {
                const double wanted = normalised ? 1 : 2 / (b.width + 2);
                QVERIFY2(std::abs(b.at(1) - wanted) < 0.02 * wanted + 0.002,
                         qPrintable(QString("%1: %2 of %3").arg(b.width).arg(b.at(1)).arg(wanted)));
            }
        // Blinn-Phong's usual factor gives a little more than it gets.
        QVERIFY(furnace_row(brdf::Model::blinnPhong, true, 1, false)[2].at(1) > 1);
    }

    void balls_are_read_between_their_steps() {
        FurnaceBall b;
        for (int i = 0; i <= FurnaceBall::steps; ++i)
            b.sent[static_cast<std::size_t>(i)] = double(i) / FurnaceBall::steps;
        QVERIFY(std::abs(b.at(0.37) - 0.37) < 1e-12 && b.at(-1) == 0 && b.at(2) == 1);
        QVERIFY(std::abs(b.mean() - 2.0 / 3) < 1e-3); // of the cosine over the disc
    }
};

MIROLUX_TEST(furnace_test)
#include "furnace_test.moc"
