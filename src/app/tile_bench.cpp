#include "app/tile_bench.h"
#include "app/benches.h"
#include "app/setting_editor.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QComboBox>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace mirolux::app {

static QString metres(double v) {
    return QString::fromStdString(number_text(v, 3)) + " m";
}

// Frustum

FrustumView::FrustumView(QWidget* parent) : QWidget(parent) {
    setFixedHeight(158);
    setToolTip(tr("The tile's frustum from outside and above, and the bounds of its lights: solid ones are needed, "
                  "dotted ones needless. Drag to turn, wheel to come nearer."));
}

void FrustumView::show_cell(const std::shared_ptr<const cull::Inspection>& inspection, std::optional<TileCell> cell,
                            int highlighted) {
    inspection_ = inspection;
    cell_ = cell;
    highlighted_ = highlighted;
    update();
}

namespace {
/// Orthographic, from azimuth and elevation about a centre: spheres stay circles.
struct Outlook {
    glm::dvec3 center, right, up;
    QPointF middle; // px
    double scale;   // px a metre

    QPointF place(const glm::vec3& v) const {
        const glm::dvec3 d = glm::dvec3(v) - center;
        return {middle.x() + glm::dot(d, right) * scale, middle.y() - glm::dot(d, up) * scale};
    }
};

Outlook outlook(const Box& content, double turn, double rise, double zoom, const QSize& size) {
    const glm::dvec3 right(std::cos(turn), 0, std::sin(turn)),
        away(-std::sin(turn) * std::cos(rise), -std::sin(rise), std::cos(turn) * std::cos(rise)),
        up = glm::cross(right, away) * -1.0;
    return {glm::dvec3(0.5f * (content.low + content.high)),
            right,
            up.y < 0 ? -up : up,
            {size.width() * 0.5, size.height() * 0.5},
            zoom * 0.42 * std::min(size.width(), 2 * size.height()) /
                std::max(1.0f, 0.5f * glm::length(content.high - content.low))};
}

/// The ground under it all, for a sense of place.
void paint_ground(QPainter& p, const Outlook& o, const Box& content) {
    const glm::vec3 low = content.low, high = content.high;
    const float step = std::pow(10.0f, std::floor(std::log10(std::max(1.0f, glm::length(high - low)))));
    p.setPen(QPen(theme().line, 0.7));
    for (float x = std::floor(low.x / step) * step; x <= high.x + step; x += step)
        p.drawLine(o.place({x, 0, low.z - step}), o.place({x, 0, high.z + step}));
    for (float z = std::floor(low.z / step) * step; z <= high.z + step; z += step)
        p.drawLine(o.place({low.x - step, 0, z}), o.place({high.x + step, 0, z}));
}

/// A light's reach: a circle, or a cone's rim and four of its edges.
void paint_reach(QPainter& p, const Outlook& o, const Light& light, float reach) {
    const QPointF at = o.place(light.position);
    if (light.type == LightType::point) {
        p.drawEllipse(at, reach * o.scale, reach * o.scale);
        return;
    }
    const glm::vec3 d = light.direction,
                    u = glm::normalize(glm::cross(d, std::abs(d.y) < 0.9f ? glm::vec3(0, 1, 0) : glm::vec3(1, 0, 0))),
                    v = glm::cross(d, u);
    QPolygonF rim;
    for (int k = 0; k <= 32; ++k) {
        const float a = 6.2831853f * static_cast<float>(k) / 32.0f;
        rim << o.place(light.position + (d * std::cos(light.outerConeAngle) +
                                         (u * std::cos(a) + v * std::sin(a)) * std::sin(light.outerConeAngle)) *
                                            reach);
        if (k % 8 == 0 && k < 32) p.drawLine(at, rim.back());
    }
    p.drawPolyline(rim);
}
} // namespace

/// The cell's eight corners in the world: four near, four far.
std::array<glm::vec3, 8> FrustumView::corners() const {
    const cull::Inspection& i = *inspection_;
    const auto bounds = cull::cell_bounds(i.view, i.depth, i.settings, cell_->column,
                                          cell_->row)[static_cast<std::size_t>(cell_->slice)];
    const auto [sliceNear, sliceFar] = cull::slice_range(cell_->slice, i.settings, i.view.camera.near);
    const bool bounded = i.settings.depthBounds != cull::DepthBounds::off && bounds.far > 0;
    const auto inView =
        cull::cell_corners(i.view, i.settings, cell_->column, cell_->row, bounded ? bounds.near : sliceNear,
                           bounded ? bounds.far : std::min(sliceFar, 60.0f));
    const glm::mat4 toWorld = glm::inverse(view_matrix(i.view.camera));
    std::array<glm::vec3, 8> result;
    for (std::size_t k = 0; k < result.size(); ++k)
        result[k] = glm::vec3(toWorld * glm::vec4(inView[k], 1));
    return result;
}

void FrustumView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    p.setPen(t.line);
    p.setBrush(t.field);
    p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    if (!inspection_ || !cell_) return;
    p.setClipRect(rect().adjusted(1, 1, -1, -1));
    const cull::Inspection& i = *inspection_;
    const glm::vec3 eye = i.view.camera.eye;
    const auto cell = corners();
    const auto lights = cull::cell_lights(i, i.cell(cell_->column, cell_->row, cell_->slice));
    Box content{eye, eye}; // what must fit: the eye, the cell, and the lights' places
    for (const glm::vec3& c : cell)
        content.add(c);
    for (const cull::CellLight& l : lights)
        content.add(i.lights[l.index].position);
    const Outlook o = outlook(content, turn_, rise_, zoom_, size());
    paint_ground(p, o, content);
    p.setPen(QPen(t.quiet, 1, Qt::DashLine)); // from the eye to the cell, then the cell
    for (std::size_t k = 4; k < 8; ++k)
        p.drawLine(o.place(eye), o.place(cell[k]));
    p.setBrush(t.text);
    p.setPen(Qt::NoPen);
    p.drawEllipse(o.place(eye), 3, 3);
    QColor fill = t.text;
    fill.setAlpha(70);
    static constexpr std::size_t faces[6][4] = {{0, 1, 2, 3}, {4, 5, 6, 7}, {0, 1, 5, 4},
                                                {2, 3, 7, 6}, {1, 2, 6, 5}, {0, 3, 7, 4}};
    p.setPen(QPen(t.text, 1.2));
    p.setBrush(fill);
    for (const auto& f : faces) {
        QPolygonF polygon;
        for (const std::size_t k : f)
            polygon << o.place(cell[k]);
        p.drawPolygon(polygon);
    }
    for (const cull::CellLight& l : lights) {
        const Light& light = i.lights[l.index];
        const bool hot = static_cast<int>(l.index) == highlighted_;
        const QColor color = l.needed && !l.listed ? t.alarm : display_color(effective_color(light));
        p.setOpacity(highlighted_ >= 0 && !hot ? 0.35 : 1.0);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(color, hot ? 2.2 : 1.1, l.needed ? Qt::SolidLine : Qt::DotLine));
        paint_reach(p, o, light, i.reach[l.index]);
        p.setPen(Qt::NoPen);
        p.setBrush(color);
        p.drawEllipse(o.place(light.position), 2.6, 2.6);
    }
}

void FrustumView::mousePressEvent(QMouseEvent* e) {
    last_ = e->position();
}

void FrustumView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) return;
    turn_ += (e->position().x() - last_.x()) * 0.01;
    rise_ = std::clamp(rise_ + (e->position().y() - last_.y()) * 0.01, 0.05, 1.5);
    last_ = e->position();
    update();
}

void FrustumView::wheelEvent(QWheelEvent* e) {
    zoom_ = std::clamp(zoom_ * std::pow(1.001, e->angleDelta().y()), 0.3, 20.0);
    update();
    e->accept();
}

// Mask

MaskStrip::MaskStrip(QWidget* parent) : QWidget(parent) {
    setFixedHeight(14);
    setToolTip(tr("Depth from the nearest sample (left) to the farthest (right) in 32 steps; filled ones hold samples. "
                  "A light that touches none of them is not listed, with depth bounds set to mask."));
}

void MaskStrip::show_mask(std::uint32_t mask, bool used) {
    mask_ = mask;
    used_ = used;
    update();
}

void MaskStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const double w = width() / 32.0;
    p.setOpacity(used_ ? 1 : 0.4);
    for (int i = 0; i < 32; ++i) {
        p.setPen(theme().line);
        p.setBrush(mask_ >> i & 1 ? theme().text : theme().field);
        p.drawRect(QRectF(i * w, 0.5, w - 1.5, height() - 2));
    }
}

// Bench

TileBench::TileBench(QWidget* parent) : QWidget(parent) {
    auto* column = bench_column(this, {});
    title_ = new QLabel(this);
    title_->setObjectName("title");
    column->addWidget(title_);
    slices_ = new QComboBox(this);
    slices_->setObjectName("slices");
    slices_->setToolTip(tr("The depth slice of the tile: each has its own list."));
    column->addWidget(slices_);
    facts_ = new QLabel(this);
    facts_->setTextFormat(Qt::RichText);
    column->addWidget(facts_);
    maskLabel_ = quiet_label({}, this);
    column->addWidget(maskLabel_);
    mask_ = new MaskStrip(this);
    column->addWidget(mask_);
    frustum_ = new FrustumView(this);
    column->addWidget(frustum_);
    counts_ = quiet_label({}, this);
    column->addWidget(counts_);
    list_ = new QListWidget(this);
    list_->setObjectName("tile lights");
    list_->setMinimumHeight(90);
    list_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored); // it takes what the bench has left
    list_->setToolTip(tr("Struck through: listed, but no sample needs it. In alarm: needed, but not listed. Hover to "
                         "see its bounds, click to select the light."));
    list_->setMouseTracking(true);
    column->addWidget(list_, 1);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* next = new QPushButton(tr("Next worst tile"), this);
    next->setToolTip(tr("Goes on to the next worse tile (Shift+W)."));
    auto* back = new QPushButton(tr("Back to the station"), this);
    back->setToolTip(tr("Clears the selection of this tile."));
    row->addWidget(next);
    row->addWidget(back);
    column->addLayout(row);
    connect(next, &QPushButton::clicked, this, &TileBench::next_worst_wanted);
    connect(back, &QPushButton::clicked, this, &TileBench::back_wanted);
    connect(slices_, &QComboBox::activated, this, [this](int i) { emit slice_picked(slices_->itemData(i).toInt()); });
    connect(list_, &QListWidget::itemClicked, this,
            [this](QListWidgetItem* item) { emit light_picked(item->data(Qt::UserRole).toInt()); });
    connect(list_, &QListWidget::itemEntered, this, [this](QListWidgetItem* item) {
        frustum_->show_cell(inspection_, cell_, item->data(Qt::UserRole + 1).toInt());
    });
    connect(list_, &QListWidget::viewportEntered, this, [this] { frustum_->show_cell(inspection_, cell_, -1); });
}

void TileBench::show_cell(const std::shared_ptr<const cull::Inspection>& inspection, TileCell cell) {
    inspection_ = inspection;
    cell_ = cell;
    const cull::Inspection& i = *inspection;
    const bool clustered = i.grid.slices > 1;
    title_->setText(clustered ? tr("Tile %1, %2, slice %3").arg(cell.column).arg(cell.row).arg(cell.slice)
                              : tr("Tile %1, %2").arg(cell.column).arg(cell.row));
    const auto bounds = cull::cell_bounds(i.view, i.depth, i.settings, cell.column, cell.row);
    slices_->setVisible(clustered);
    if (clustered) {
        const QSignalBlocker quiet(slices_);
        slices_->clear();
        for (int s = 0; s < i.grid.slices; ++s) {
            const auto n = i.grid.count(i.cell(cell.column, cell.row, s));
            if (!n && bounds[static_cast<std::size_t>(s)].far == 0 && s != cell.slice) continue;
            const auto [near, far] = cull::slice_range(s, i.settings, i.view.camera.near);
            slices_->addItem(far > 1e9f
                                 ? tr("slice %1: %2 on, %3 lights").arg(s).arg(metres(near)).arg(n)
                                 : tr("slice %1: %2 to %3, %4 lights").arg(s).arg(metres(near), metres(far)).arg(n),
                             s);
            if (s == cell.slice) slices_->setCurrentIndex(slices_->count() - 1);
        }
    }
    const std::size_t index = i.cell(cell.column, cell.row, cell.slice);
    const cull::CellBounds& b = bounds[static_cast<std::size_t>(cell.slice)];
    QString html = "<table cellspacing='0' cellpadding='1'>";
    const auto row = [&](const QString& label, const QString& value) {
        html += "<tr><td style='padding-right:14px'>" + label + "</td><td align='right'>" + value + "</td></tr>";
    };
    row(tr("Depth of its samples"),
        b.far > 0 ? tr("%1 to %2").arg(metres(b.near), metres(b.far)) : tr("none: nothing is shaded here"));
    row(tr("Offset in the index list"), QLocale().toString(i.grid.offsets[index]));
    row(tr("Lights listed"), QString("<b>%1</b>").arg(i.grid.count(index)));
    row(tr("Lights needed"), QString::number(i.exact.count(index)));
    facts_->setText(html + "</table>");
    const bool masked = i.settings.depthBounds == cull::DepthBounds::mask;
    maskLabel_->setText(masked ? tr("Depth mask, near to far")
                               : tr("Depth mask, near to far (not used by this setup)"));
    mask_->show_mask(b.mask, masked);
    frustum_->show_cell(inspection_, cell_, -1);
    int needless = 0, missed = 0;
    list_->clear();
    for (const cull::CellLight& l : cull::cell_lights(i, index)) {
        auto* item = new QListWidgetItem(QString::fromStdString(i.lights[l.index].name), list_);
        item->setData(Qt::UserRole, i.lights[l.index].id);
        item->setData(Qt::UserRole + 1, static_cast<int>(l.index));
        if (!l.needed) {
            QFont struck = list_->font();
            struck.setStrikeOut(true);
            item->setFont(struck);
            item->setForeground(theme().quiet);
            ++needless;
        } else if (!l.listed) {
            item->setText(item->text() + tr("   not listed!"));
            item->setForeground(theme().alarm);
            ++missed;
        }
    }
    counts_->setText(
        missed ? tr("%1 needless, %2 missed: the culling is wrong, or the list was full.").arg(needless).arg(missed)
               : tr("%1 needless, none missed.").arg(needless));
}

} // namespace mirolux::app
