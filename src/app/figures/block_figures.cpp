#include "app/figures/block_figures.h"
#include "app/marks.h"
#include "app/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <QWheelEvent>

namespace mirolux::app {

static constexpr int atOnce = 200 * 200; // cells of a slice that is drawn where it is asked for; a larger one aside

SliceFigure::SliceFigure(blocks::Field first, Document& document, const RenderBridge& bridge, QWidget* parent)
    : Figure(document, bridge, parent),
      fields_(new ChoiceRow({tr("cells"), tr("lamps"), tr("sky"), tr("rays"), tr("ways"), tr("steps")}, this)),
      task_([] {}) {
    setObjectName("slice figure");
    setAccessibleName(tr("A slice of the world"));
    setToolTip(
        tr("A slice at a height: the wheel, the arrow keys or a click beside it move it. Rest on a cell for what "
           "lights it."));
    setMinimumHeight(330); // a layout asks for its rows alone
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    fields_->setObjectName("slice field");
    fields_->setToolTip(tr("Colours by material; by levels of lamps or of the sky, where light floods; by what rays "
                           "met, where they are cast; by the way to the light (east red, up green, south blue) and by "
                           "the steps that it has come, where cells know them."));
    fields_->set_current(static_cast<int>(first));
    rest_.setSingleShot(true);
    connect(&rest_, &QTimer::timeout, this, &SliceFigure::work_out);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(fields_);
    column->addStretch();
    connect(fields_, &ChoiceRow::chosen, this, [this] { draw_slice(); });
    connect(&document_, &Document::changed, this, &SliceFigure::take);
    take();
}

SliceFigure::~SliceFigure() {
    task_.stop();
}

/// Light follows from cells, the setup and the time; it is worked out aside.
void SliceFigure::take() {
    if (!document_.is_open() || !document_.is_blocks() || !isVisible()) return;
    const auto of = std::tuple(document_.project().blocks, document_.project().setup, document_.project().view.seconds);
    if (of_ == of) return;
    of_ = of;
    if (height_ < 0) height_ = static_cast<int>(document_.project().view.camera.aim.y / std::get<0>(of)->edge);
    height_ = std::clamp(height_, 0, std::get<0>(of)->still.size().y - 1);
    rest_.start(light_ ? 150 : 0); // while cells come and go, what one looks at is the picture
}

void SliceFigure::work_out() {
    if (!document_.is_open() || !document_.is_blocks()) return;
    task_.ask([this, scene = document_.scene(), setup = document_.project().setup,
               view = document_.project().view](const NewestTask::GoesOn& goes_on) {
        auto light = std::make_shared<const blocks::BlockLight>(scene, setup, view);
        if (!goes_on()) return;
        QMetaObject::invokeMethod(
            this,
            [this, light] {
                light_ = light;
                draw_slice();
            },
            Qt::QueuedConnection);
    });
}

blocks::Field SliceFigure::field() const {
    return static_cast<blocks::Field>(std::clamp(fields_->current(), 0, 5)); // in their order
}

void SliceFigure::draw_slice() {
    if (!light_) return;
    const auto draw = [light = light_, field = field(), height = height_] {
        const ByteImage s = blocks::slice(*light, field, height);
        return QImage(s.rgba.data(), s.width, s.height, 4 * s.width, QImage::Format_RGBX8888).copy();
    };
    const glm::ivec3 size = light_->world().still.size();
    if (size.x * size.z <= atOnce) {
        picture_ = draw();
        return update();
    }
    task_.ask([this, draw](const NewestTask::GoesOn&) {
        QMetaObject::invokeMethod(
            this,
            [this, picture = draw()] {
                picture_ = picture;
                update();
            },
            Qt::QueuedConnection);
    });
}

void SliceFigure::set_height(int cells) {
    if (!light_) return;
    cells = std::clamp(cells, 0, light_->world().still.size().y - 1);
    if (cells == height_) return;
    height_ = cells;
    if (cell_) cell_->y = cells;
    draw_slice();
    if (cell_) words_ = QString::fromStdString(blocks::told(*light_, *cell_));
}

QRectF SliceFigure::drawing() const {
    if (rowFor_ != width()) { // asked for with every line that is drawn
        rowFor_ = width();
        rowHeight_ = fields_->heightForWidth(width());
    }
    const double top = rowHeight_ + 6.0, room = width() - 26.0;
    if (picture_.isNull()) return {0, top, room, room};
    const double scale = std::min(room / picture_.width(), (height() - top - 62) / picture_.height());
    return {0, top, picture_.width() * scale, picture_.height() * scale};
}

QRectF SliceFigure::ladder() const {
    const QRectF d = drawing();
    return {d.right() + 10, d.top(), 12, d.height()};
}

QPointF SliceFigure::place(double x, double z) const {
    const QRectF d = drawing();
    return {d.left() + x * d.width() / std::max(1, picture_.width()),
            d.top() + z * d.height() / std::max(1, picture_.height())};
}

void SliceFigure::paintEvent(QPaintEvent*) {
    if (!document_.is_blocks()) return;
    QPainter p(this);
    p.setFont(sized(font(), 11));
    const QRectF d = drawing();
    p.fillRect(d, theme().pictureSurround);
    if (picture_.isNull()) {
        p.setPen(theme().quiet);
        p.drawText(d, Qt::AlignCenter, tr("light is worked out\u2026"));
        return;
    }
    p.drawImage(d, picture_);
    const blocks::Field shown = field();
    const bool rays = shown == blocks::Field::hits,
               ways = shown == blocks::Field::ways || shown == blocks::Field::steps;
    const QString missing = rays && !light_->casts() ? tr("no rays are cast: the way of light is another")
                            : ways && !light_->origins()
                                ? tr("cells do not know this: the way of light is another than flood-origin")
                            : !rays && !ways && shown != blocks::Field::cells && !light_->flood()
                                ? tr("no light floods: the way of light is another")
                                : QString();
    if (!missing.isEmpty()) {
        p.setPen(ivory);
        p.drawText(d.adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap, missing);
    }
    const int top = light_->world().still.size().y;
    if (const blocks::OriginFlood* o = light_->origins();
        o && field() != blocks::Field::cells && field() != blocks::Field::sky) { // strokes toward light
        p.setRenderHint(QPainter::Antialiasing);
        const int every = std::max(3, picture_.width() / 32);
        for (int z = every / 2; z < picture_.height(); z += every)
            for (int x = every / 2; x < picture_.width(); x += every) {
                const blocks::Origin at = o->at({x, height_, z});
                if (at.level == 0) continue;
                const glm::dvec2 to = glm::dvec2(at.via[0], at.via[2]);
                const double length = glm::length(to);
                if (length < 0.5) continue;
                const glm::dvec2 step = to / length * (0.42 * every);
                p.setPen(QPen(ivory, 1.1));
                p.drawLine(place(x + 0.5, z + 0.5), place(x + 0.5 + step.x, z + 0.5 + step.y));
            }
        if (cell_) {
            const std::vector<glm::ivec3> way = o->way_back(*cell_);
            two_tone(p, ivory, 1.8, Qt::SolidLine, [&] {
                for (std::size_t i = 1; i < way.size(); ++i)
                    p.drawLine(place(way[i - 1].x + 0.5, way[i - 1].z + 0.5), place(way[i].x + 0.5, way[i].z + 0.5));
            });
        }
    }
    p.setPen(QPen(QColor(246, 242, 232, 46), 1)); // where chunks meet
    for (int x = blocks::chunk_edge; x < picture_.width(); x += blocks::chunk_edge)
        p.drawLine(place(x, 0), place(x, picture_.height()));
    for (int z = blocks::chunk_edge; z < picture_.height(); z += blocks::chunk_edge)
        p.drawLine(place(0, z), place(picture_.width(), z));
    // Where the eye stands, and which way it looks.
    const Camera& c = document_.project().view.camera;
    const double edge = light_->world().edge;
    const QPointF eye = place(c.eye.x / edge, c.eye.z / edge), aim = place(c.aim.x / edge, c.aim.z / edge);
    p.save();
    p.setClipRect(d);
    p.setRenderHint(QPainter::Antialiasing);
    two_tone(p, ivory, 1.2, Qt::DotLine, [&] { p.drawLine(eye, aim); });
    p.restore();
    if (cell_) {
        const QPointF low = place(cell_->x, cell_->z), high = place(cell_->x + 1, cell_->z + 1);
        two_tone(p, ivory, 1.2, Qt::SolidLine, [&] { p.drawRect(QRectF(low, high).adjusted(-2, -2, 2, 2)); });
    }
    const QRectF l = ladder();
    p.setPen(theme().line);
    p.drawLine(QPointF(l.center().x(), l.top()), QPointF(l.center().x(), l.bottom()));
    const double y = l.bottom() - l.height() * height_ / std::max(1, top - 1);
    p.fillRect(QRectF(l.left(), y - 2, l.width(), 4), theme().text);
    p.setPen(theme().quiet);
    p.drawText(QRectF(0, d.bottom() + 4, width(), 56), Qt::AlignLeft | Qt::TextWordWrap,
               cell_ ? words_ : height_words());
}

QString SliceFigure::height_words() const {
    const blocks::World& w = light_->world();
    QString text =
        tr("Height %1 of %2 cells (%3 m)").arg(height_).arg(w.still.size().y).arg(height_ * double(w.edge), 0, 'f', 2);
    if (const blocks::CastWorld* c = light_->casts())
        text += tr(". Rays of %L1 cells took %2 ms, those of props %3 ms.")
                    .arg(c->still.cells())
                    .arg(c->stillMs, 0, 'f', 1)
                    .arg(c->propsMs, 0, 'f', 2);
    if (const blocks::CastWorld* c = light_->casts(); c && c->bakedBytes > 0)
        text += tr(" Their headings took %1 ms, and %2 MiB.")
                    .arg(c->bakedMs, 0, 'f', 0)
                    .arg(double(c->bakedBytes) / 1048576, 0, 'f', 1);
    return text;
}

void SliceFigure::resizeEvent(QResizeEvent*) {
    update();
}

void SliceFigure::wheelEvent(QWheelEvent* e) {
    set_height(height_ + (e->angleDelta().y() > 0 ? 1 : -1));
    e->accept();
}

void SliceFigure::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down)
        return set_height(height_ + (e->key() == Qt::Key_Up ? 1 : -1));
    if (e->key() == Qt::Key_PageUp || e->key() == Qt::Key_PageDown)
        return set_height(height_ + (e->key() == Qt::Key_PageUp ? 8 : -8));
    Figure::keyPressEvent(e);
}

void SliceFigure::show_cell(const glm::ivec3& cell) {
    if (!light_) return;
    set_height(cell.y);
    cell_ = cell;
    words_ = QString::fromStdString(blocks::told(*light_, cell));
    update();
}

void SliceFigure::point_at(const QPointF& at) {
    cell_.reset();
    if (light_ && !picture_.isNull() && drawing().contains(at)) {
        const QPointF in = at - drawing().topLeft();
        cell_ = glm::ivec3(int(in.x() * picture_.width() / drawing().width()), height_,
                           int(in.y() * picture_.height() / drawing().height()));
        words_ = QString::fromStdString(blocks::told(*light_, *cell_));
    }
    update();
}

void SliceFigure::mouseMoveEvent(QMouseEvent* e) {
    if (e->buttons() & Qt::LeftButton && e->position().x() > ladder().left() - 6) return mousePressEvent(e);
    point_at(e->position());
}

void SliceFigure::mousePressEvent(QMouseEvent* e) {
    const QRectF l = ladder();
    if (!light_ || e->position().x() < l.left() - 6) return;
    set_height(static_cast<int>(
        std::lround((l.bottom() - e->position().y()) / l.height() * (light_->world().still.size().y - 1))));
}

void SliceFigure::leaveEvent(QEvent*) {
    cell_.reset();
    update();
}

Figure* make_block_figure(const QString& station, Document& document, const RenderBridge& bridge, QWidget* parent) {
    if (station == "Scene") return new SliceFigure(blocks::Field::cells, document, bridge, parent);
    if (station == "Shadows") return new SliceFigure(blocks::Field::hits, document, bridge, parent);
    return station == "Path" ? new SliceFigure(blocks::Field::lamps, document, bridge, parent) : nullptr;
}

} // namespace mirolux::app
