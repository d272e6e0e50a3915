#include "app/pixel_bench.h"
#include "app/benches.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/ambient/reflection.h"
#include "core/base/text.h"
#include "core/light/luminance.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

static QString figures(double v, int digits = 3) {
    return QString::fromStdString(number_text(v, digits));
}
static QString rgb(const glm::dvec3& c) {
    return figures(c.x) + "  " + figures(c.y) + "  " + figures(c.z);
}
static QString percent(double share) {
    return QString::number(share * 100, 'f', share < 0.0995 ? 2 : 1) + " %";
}

AccountRows::AccountRows(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
}

void AccountRows::add(Row row, int height) {
    row.y = rows_.empty() ? 0 : rows_.back().y + rows_.back().height;
    row.height = height;
    rows_.push_back(std::move(row));
}

void AccountRows::add_note(const QString& text, int height) {
    add({.kind = Row::Kind::note, .name = text}, height);
}

/// What the surface sends without any light: what the air adds, emission, ambient. Shares are of the pixel's luminance.
void AccountRows::add_parts(const SurfaceAccount& s, double total) {
    // What reaches the eye of each part: the air dims them all, and adds its own light.
    const auto arrives = [&](const glm::dvec3& part) {
        return luminance(part * s.air.transmittance) * s.weight / total;
    };
    const auto part = [&](const QString& name, double share) {
        add({.kind = Row::Kind::part, .name = name, .value = percent(share), .share = share}, 20);
    };
    if (s.air.transmittance != glm::dvec3(1.0))
        part(tr("air light; %1 of the rest comes through").arg(percent(luminance(s.air.transmittance))),
             luminance(s.air.scattered) * s.weight / total);
    if (const double emitted = arrives(glm::dvec3(s.sample.emissive)); emitted > 0)
        part(s.unlit ? tr("base colour, unlit") : tr("emission"), emitted);
    if (const double baked = arrives(glm::dvec3(s.sample.baked)); baked > 0) part(tr("from the light map"), baked);
    const glm::dvec3 mirrored(s.sample.mirrored);
    if (const double share = arrives(glm::dvec3(s.sample.ambient) - mirrored); share > 0)
        part(s.sample.screenOcclusion < 1 || s.sample.bakedOcclusion < 1
                 ? tr("ambient; open: screen %1, map %2")
                       .arg(percent(s.sample.screenOcclusion), percent(s.sample.bakedOcclusion))
                 : tr("ambient"),
             share);
    const glm::dvec3 reflected(s.sample.reflected);
    if (const double share = arrives(mirrored - reflected); share > 0)
        part(s.sample.answer < 0 ? tr("mirrored surroundings; screen: %1")
                                       .arg(QString::fromUtf8(word(static_cast<ScreenAnswer>(s.sample.answer))))
                                 : tr("mirrored surroundings"),
             share);
    if (const double share = arrives(reflected); share > 0) part(tr("mirrored from the screen"), share);
    QStringList names;
    for (const auto& [name, taken] : s.probes)
        names << tr("%1 %2").arg(QString::fromStdString(name), percent(taken));
    if (!names.isEmpty())
        part(tr("of the ambient light, probes': %1").arg(names.join(", ")), arrives(glm::dvec3(s.sample.probes)));
}

/// One light's factors in two lines.
static QString factors_text(const LightTerm& t) {
    using R = AccountRows;
    QString text = t.metres > 0 ? R::tr("%1 m: %2 /m\u00b2   ").arg(figures(t.metres), figures(t.distance)) : QString();
    if (t.cone < 1) text += R::tr("cone %1   ").arg(figures(t.cone, 2));
    text += R::tr("facing %1").arg(figures(t.facing, 2)) + "\n";
    if (t.through >= 0) // from behind: neither lobe, nor what shades the surface, has a part in it
        return text +
               R::tr("comes through %1 mm: %2 of it").arg(figures(1000 * t.through, 2), percent(luminance(t.passed)));
    text += R::tr("diffuse %1   specular %2").arg(figures(luminance(t.diffuse), 2), figures(luminance(t.specular), 2));
    for (const LightFactor& f : t.factors)
        text += QString("   %1 %2").arg(QString::fromStdString(f.name), figures(luminance(f.value), 2));
    if (!t.occluder.empty()) text += R::tr(" by %1").arg(QString::fromStdString(t.occluder));
    if (t.fade < 1) text += R::tr("   faded to %1").arg(percent(t.fade));
    return text;
}

void AccountRows::add_lights(const SurfaceAccount& s, double total) {
    constexpr int most = 14;
    int shown = 0;
    for (const LightTerm& t : s.lights) {
        const bool lost = t.standing >= LightStanding::dropped;
        if ((t.standing != LightStanding::gives && !lost) || shown++ >= most) continue;
        const double share = luminance(t.radiance * s.air.transmittance) * s.weight / total;
        const glm::dvec3 hue = t.intensity / std::max({t.intensity.x, t.intensity.y, t.intensity.z, 1e-9});
        add({.kind = Row::Kind::light,
             .name = QString::fromStdString(t.name) + (lost ? "   " + QString(word(t.standing)) : QString()),
             .detail = factors_text(t),
             .value = lost ? tr("would be %1").arg(percent(share)) : percent(share),
             .share = lost ? 0 : share,
             .light = t.light,
             .alarm = lost,
             .color = display_color(glm::vec3(hue))},
            48);
    }
    if (shown > most) add_note(tr("and %1 weaker lights").arg(shown - most), 18);
    QStringList useless;
    for (const LightTerm& t : s.lights)
        if (t.listed && t.standing != LightStanding::gives && useless.size() < 6)
            useless << tr("%1 (%2)").arg(QString::fromStdString(t.name), word(t.standing));
    if (useless.isEmpty()) return;
    add_note(tr("taken up, useless here: %1 of %2").arg(s.useless).arg(s.listed), 18);
    for (const QString& u : useless)
        add_note("   " + u, 16);
}

/// What lights a face of a Blocks stage, and why no more does.
void AccountRows::add_cell(const CellAccount& c, double total) {
    const auto place = [](const glm::ivec3& v) { return QString("%1, %2, %3").arg(v.x).arg(v.y).arg(v.z); };
    const struct {
        QString name;
        glm::dvec3 light;
    } parts[] = {{tr("the sky, by the face"), c.sky},
                 {tr("the sun or the moon"), c.sun},
                 {tr("lamps"), c.lamps},
                 {tr("its own glow"), c.glow}};
    for (const auto& p : parts)
        if (const double share = luminance(p.light) / total; share > 0)
            add({.kind = Row::Kind::part, .name = p.name, .value = percent(share), .share = share}, 20);
    add_note(tr("cell %1, lit by the cell before it").arg(place(c.cell)), 18);
    if (c.hits) add_note(tr("rays met %1 toward the sun, %2 away").arg(c.hits->x).arg(c.hits->y), 18);
    if (c.levels)
        add_note(
            tr("levels %1, %2, %3; the sky's %4").arg(c.levels->x).arg(c.levels->y).arg(c.levels->z).arg(c.levels->w),
            18);
    for (const QString& part : QString::fromStdString(c.why).split("; "))
        if (!part.isEmpty()) add_note(part, 18);
    for (std::size_t i = 1; i < c.way.size(); ++i)
        add_note((i + 1 == c.way.size() ? tr("its lamp: %1") : tr("turn: %1")).arg(place(c.way[i])), 18);
}

/// What the air shows of single lights, whole: it is before everything else in the pixel.
void AccountRows::add_air_lights(const PixelAccount& a, double total) {
    if (a.airLights.empty()) return;
    constexpr std::size_t most = 8;
    double all = 0;
    for (const AirTerm& t : a.airLights)
        all += luminance(t.radiance);
    add({.kind = Row::Kind::surface,
         .name = tr("air"),
         .detail = tr("light of lamps that it scatters toward the eye"),
         .value = percent(all / total)},
        38);
    for (std::size_t i = 0; i < std::min(most, a.airLights.size()); ++i) {
        const AirTerm& t = a.airLights[i];
        const double share = luminance(t.radiance) / total;
        add({.kind = Row::Kind::part, .name = QString::fromStdString(t.name), .value = percent(share), .share = share},
            20);
    }
    if (a.airLights.size() > most) add_note(tr("and %1 weaker lights").arg(a.airLights.size() - most), 18);
}

void AccountRows::show_account(const PixelAccount& a) {
    rows_.clear();
    const double total = std::max(luminance(a.sum), 1e-12);
    for (const SurfaceAccount& s : a.surfaces) {
        add({.kind = Row::Kind::surface,
             .name = QString::fromStdString(s.object),
             .detail = tr("%1%2, weight %3")
                           .arg(QString::fromStdString(s.material), s.blended ? tr(", blended") : QString(),
                                figures(s.weight)),
             .value = percent(luminance(s.air.apply(s.radiance)) * s.weight / total)},
            38);
        if (a.cell)
            add_cell(*a.cell, total);
        else
            add_parts(s, total);
        for (const ChangeTerm& t : s.changes) {
            const double share =
                (luminance(t.after) - luminance(t.before)) * s.weight * luminance(s.air.transmittance) / total;
            add({.kind = Row::Kind::part,
                 .name = tr("%1, cheap").arg(QString::fromStdString(t.name)),
                 .value = percent(share),
                 .share = std::max(0.0, share)},
                20);
        }
        add_lights(s, total);
    }
    add_air_lights(a, total);
    if (const double share = luminance(a.spread) / total; share != 0)
        add({.kind = Row::Kind::part,
             .name = tr("light spread beneath the surface"),
             .value = percent(share),
             .share = std::max(0.0, share)},
            20);
    if (const double share = luminance(a.shafts) / total; share > 0)
        add({.kind = Row::Kind::part, .name = tr("shafts"), .value = percent(share), .share = share}, 20);
    for (const AirTerm& t : a.beams)
        add({.kind = Row::Kind::part,
             .name = tr("beam of %1").arg(QString::fromStdString(t.name)),
             .value = percent(luminance(t.radiance) / total),
             .share = luminance(t.radiance) / total},
            20);
    if (a.skyWeight > 0)
        add({.kind = Row::Kind::surface,
             .name = tr("sky"),
             .detail = tr("weight %1").arg(figures(a.skyWeight)),
             .value = percent(luminance(a.sky) * a.skyWeight / total)},
            38);
    add_stages(a);
    setFixedHeight(rows_.empty() ? 20 : rows_.back().y + rows_.back().height + 4);
    update();
}

/// What followed the surfaces: the value after each stage that changed it, and names of those that did not.
void AccountRows::add_stages(const PixelAccount& a) {
    if (a.stages.empty()) return;
    add({.kind = Row::Kind::surface,
         .name = tr("the finish"),
         .detail = tr("the value after each stage: cd/m\u00b2, then shares of white")},
        38);
    QStringList idle;
    for (std::size_t i = 0; i < a.stages.size(); ++i) {
        const PixelStage& s = a.stages[i];
        const QString name = QString::fromStdString(s.name);
        const bool changed = i == 0 || glm::length(s.value - a.stages[i - 1].value) >
                                           1e-4f * std::max(1e-3f, glm::length(a.stages[i - 1].value));
        if (!changed) {
            idle << name;
            continue;
        }
        const bool last = i + 1 == a.stages.size();
        const glm::dvec3 v(s.value);
        add({.kind = Row::Kind::stage,
             .name = name,
             .value = last ? QString("%1  %2  %3")
                                 .arg(std::lround(255 * v.x))
                                 .arg(std::lround(255 * v.y))
                                 .arg(std::lround(255 * v.z))
                           : rgb(v),
             .color = last ? QColor::fromRgbF(float(v.x), float(v.y), float(v.z)) : QColor()},
            19);
    }
    if (!idle.isEmpty()) add_note(tr("unchanged by: %1").arg(idle.join(", ")), 18);
}

void AccountRows::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QFont small = sized(font(), 11);
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    for (const Row& r : rows_) {
        const QRectF box(0, r.y, width(), r.height);
        switch (r.kind) {
        case Row::Kind::surface:
            p.setPen(t.line);
            p.drawLine(QPointF(0, r.y + 2.5), QPointF(width(), r.y + 2.5));
            p.setFont(strong);
            p.setPen(t.text);
            p.drawText(box.adjusted(0, 5, -64, -14), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(r.name, Qt::ElideRight, width() - 70));
            p.drawText(box.adjusted(0, 5, 0, -14), Qt::AlignVCenter | Qt::AlignRight, r.value);
            p.setFont(small);
            p.setPen(t.quiet);
            p.drawText(box.adjusted(0, 20, 0, 0), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(r.detail, Qt::ElideRight, width()));
            break;
        case Row::Kind::part:
        case Row::Kind::light: {
            p.setPen(Qt::NoPen);
            p.setBrush(t.field);
            p.drawRect(QRectF(0, r.y + 17, width(), 3));
            p.setBrush(r.light >= 0 ? r.color : t.quiet);
            p.drawRect(QRectF(0, r.y + 17, width() * std::min(1.0, r.share), 3));
            p.setFont(font());
            p.setPen(r.alarm ? t.alarm : t.text);
            const int valueWidth = p.fontMetrics().horizontalAdvance(r.value) + 8;
            p.drawText(QRectF(0, r.y, width() - valueWidth, 17), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(r.name, Qt::ElideRight, width() - valueWidth));
            p.drawText(QRectF(0, r.y, width(), 17), Qt::AlignVCenter | Qt::AlignRight, r.value);
            p.setFont(small);
            p.setPen(t.quiet);
            if (r.kind == Row::Kind::light)
                for (int line = 0; line < 2; ++line)
                    p.drawText(QRectF(0, r.y + 20 + 13 * line, width(), 14), Qt::AlignVCenter,
                               p.fontMetrics().elidedText(r.detail.section('\n', line, line), Qt::ElideRight, width()));
            break;
        }
        case Row::Kind::stage: {
            p.setFont(font());
            p.setPen(t.text);
            int right = width();
            if (r.color.isValid()) {
                p.fillRect(QRect(width() - 14, r.y + 3, 14, 13), r.color);
                right -= 20;
            }
            const int valueWidth = p.fontMetrics().horizontalAdvance(r.value) + 8;
            p.drawText(QRectF(0, r.y, right, r.height), Qt::AlignVCenter | Qt::AlignRight, r.value);
            p.setPen(t.quiet);
            p.drawText(QRectF(0, r.y, right - valueWidth, r.height), Qt::AlignVCenter,
                       p.fontMetrics().elidedText(r.name, Qt::ElideRight, right - valueWidth));
            break;
        }
        case Row::Kind::note:
            p.setFont(small);
            p.setPen(t.quiet);
            p.drawText(box, Qt::AlignVCenter, p.fontMetrics().elidedText(r.name, Qt::ElideRight, width()));
            break;
        }
    }
}

const AccountRows::Row* AccountRows::at(const QPoint& point) const {
    for (const Row& r : rows_)
        if (r.light >= 0 && point.y() >= r.y && point.y() < r.y + r.height) return &r;
    return nullptr;
}

void AccountRows::mousePressEvent(QMouseEvent* e) {
    if (const Row* r = at(e->position().toPoint())) emit light_picked(r->light);
}

void AccountRows::mouseMoveEvent(QMouseEvent* e) {
    const Row* r = at(e->position().toPoint());
    setCursor(r ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(r ? tr("%1\nIts share of this pixel is the product: intensity x distance x cone x facing x (diffuse + "
                      "specular). Click to select the light.")
                       .arg(r->name)
                 : QString());
}

PixelBench::PixelBench(QWidget* parent) : QWidget(parent) {
    auto* column = bench_column(this, {});
    title_ = new QLabel(this);
    title_->setObjectName("title");
    column->addWidget(title_);
    reason_ = new QLabel(this);
    reason_->setWordWrap(true);
    column->addWidget(reason_);
    sums_ = quiet_label({}, this);
    sums_->setTextFormat(Qt::RichText);
    column->addWidget(sums_);
    rows_ = new AccountRows(this);
    column->addWidget(rows_);
    column->addStretch();
    hint_ = quiet_label({}, this);
    column->addWidget(hint_);
    back_ = new QPushButton(tr("Back to the station"), this);
    back_->setToolTip(tr("Clears the selection of this pixel."));
    column->addWidget(back_);
    connect(back_, &QPushButton::clicked, this, &PixelBench::back_wanted);
    connect(rows_, &AccountRows::light_picked, this, &PixelBench::light_picked);
    set_held(false);
}

void PixelBench::set_held(bool held) {
    back_->setVisible(held);
    hint_->setText(held ? QString() : tr("Click with Alt held to keep this account here."));
}

QString PixelBench::reason() const {
    return reason_->text();
}

void PixelBench::show_account(const PixelAccount& a) {
    title_->setText(tr("Pixel %1, %2").arg(a.pixel.x).arg(a.pixel.y));
    reason_->setText(QString::fromStdString(a.reason));
    sums_->setText(
        tr("<table cellspacing='0' cellpadding='1'><tr><td>picture, cd/m\u00b2&nbsp;</td><td>%1</td></tr><tr><td>sum "
           "of its parts&nbsp;</td><td>%2</td></tr><tr><td>apart by&nbsp;</td><td>%3</td></tr></table>")
            .arg(rgb(a.picture), rgb(a.sum), percent(a.difference)));
    rows_->show_account(a);
}

} // namespace mirolux::app
