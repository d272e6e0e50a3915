#include "app/outside_view.h"
#include "app/benches.h"
#include "app/theme.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <glm/gtc/matrix_transform.hpp>

namespace mirolux::app {

OutsideCanvas::OutsideCanvas(QWidget* parent) : QWidget(parent) {
    setObjectName("outside");
    setMinimumSize(200, 120);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("Drag turns it, with Shift it moves, the wheel comes nearer."));
}

void OutsideCanvas::set_over(const glm::vec3& eye) {
    over_ = eye;
}

View OutsideCanvas::outside(const View& inside) const {
    View v;
    v.width = std::max(64, width());
    v.height = std::max(36, height());
    v.seconds = inside.seconds;
    glm::vec3 ahead = inside.camera.aim - inside.camera.eye; // more of what lies before the eye than behind it
    ahead.y = 0;
    if (glm::length(ahead) > 1e-3f) ahead = 0.2f * distance_ * glm::normalize(ahead);
    v.camera = outside_camera(over_ + ahead + aside_, distance_, turn_, pitch_, over_.y + 0.35f);
    return v;
}

void OutsideCanvas::set_question(const OutsideQuestion& question) {
    question_ = question;
    shown_ = question.outside;
    update();
}

void OutsideCanvas::set_answer(std::shared_ptr<const OutsideAnswer> answer, const View& outside) {
    answer_ = std::move(answer);
    shown_ = outside;
    const ByteImage& p = answer_->picture;
    picture_ = QImage(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBX8888).copy();
    update();
}

std::optional<QPointF> OutsideCanvas::place(const glm::vec3& point) const {
    // The section cuts the picture, not what is drawn over it.
    Camera c = shown_.camera;
    c.near = 0.1f;
    const glm::vec4 clip =
        projection_matrix(c, double(width()) / std::max(1, height())) * view_matrix(c) * glm::vec4(point, 1);
    if (clip.w <= 0.1f) return std::nullopt;
    return QPointF((0.5 + 0.5 * double(clip.x / clip.w)) * width(), (0.5 - 0.5 * double(clip.y / clip.w)) * height());
}

void OutsideCanvas::paint_line(QPainter& p, const glm::vec3& a, const glm::vec3& b) const {
    if (const auto from = place(a), to = place(b); from && to) p.drawLine(*from, *to);
}

void OutsideCanvas::paint_box(QPainter& p, const Box& b) const {
    const auto corner = [&](int k) {
        return glm::vec3(k & 1 ? b.high.x : b.low.x, k & 2 ? b.high.y : b.low.y, k & 4 ? b.high.z : b.low.z);
    };
    for (int k = 0; k < 8; ++k)
        for (const int bit : {1, 2, 4})
            if (!(k & bit)) paint_line(p, corner(k), corner(k | bit));
}

/// What part of the eye's picture shows, as a wedge at the eye's height.
void OutsideCanvas::paint_frustum(QPainter& p, const Window& part, float length) const {
    const View& in = question_->inside;
    const glm::mat4 back = glm::inverse(projection_matrix(in.camera, aspect_of(in)) * view_matrix(in.camera));
    const auto way = [&](float x, float y) {
        const glm::vec4 at = back * glm::vec4(x, y, 0.5f, 1);
        return glm::normalize(glm::vec3(at) / at.w - in.camera.eye);
    };
    const glm::vec3 eye = in.camera.eye;
    const auto a = place(eye),
               b = place(eye + length * 0.5f * (way(part.low.x, part.low.y) + way(part.low.x, part.high.y))),
               c = place(eye + length * 0.5f * (way(part.high.x, part.low.y) + way(part.high.x, part.high.y)));
    if (!a || !b || !c) return;
    QPainterPath path(*a);
    path.lineTo(*b);
    path.lineTo(*c);
    path.closeSubpath();
    QColor fill = p.pen().color();
    fill.setAlpha(34);
    p.fillPath(path, fill);
    p.drawPath(path);
}

void OutsideCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().pictureSurround);
    if (!question_) return;
    p.setRenderHint(QPainter::Antialiasing);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (!picture_.isNull()) p.drawImage(rect(), picture_);
    const std::vector<Object>& objects = question_->scene.objects();
    if (answer_) {
        // What visibility leaves out of the frustum.
        const auto planes = frustum_planes(question_->inside.camera, aspect_of(question_->inside));
        for (std::size_t i = 0; i < answer_->drawn.size() && i < objects.size(); ++i) {
            const Object& o = objects[i];
            if (answer_->drawn[i] || o.hidden || o.proxy || o.casts == Casting::unseen) continue;
            QColor c = answer_->missing[i] ? theme().alarm : QColor(190, 190, 190, 90);
            if (!answer_->missing[i] && !intersects(planes, o.bounds)) c.setAlpha(26);
            p.setPen(QPen(c, answer_->missing[i] ? 1.6 : 1));
            paint_box(p, o.bounds);
        }
        if (answer_->cell) {
            p.setPen(QPen(QColor(235, 235, 225), 1.4, Qt::DashLine));
            paint_box(p, *answer_->cell);
        }
        for (const Sight::Through& t : answer_->sight.chain) {
            p.setPen(QPen(theme().b, 1));
            paint_frustum(p, t.window, 22);
        }
    }
    for (const Door& d : question_->scene.doors) {
        const bool open = open_share(question_->scene, d) > 1e-3;
        const DoorPlane plane = plane_of(d);
        p.setPen(QPen(open ? QColor(240, 240, 230) : QColor(240, 240, 230, 200), open ? 1.4 : 2.4,
                      open ? Qt::DotLine : Qt::SolidLine));
        for (int k = 0; k < 4; ++k)
            paint_line(p, plane.corners[k], plane.corners[(k + 1) % 4]);
        if (!open) { // what is closed is crossed out
            paint_line(p, plane.corners[0], plane.corners[2]);
            paint_line(p, plane.corners[1], plane.corners[3]);
        }
    }
    paint_rooms(p);
    p.setPen(QPen(theme().a, 1.4));
    paint_frustum(p, {}, 26);
    if (const auto eye = place(question_->inside.camera.eye)) {
        p.setPen(QPen(Qt::black, 3));
        p.setBrush(QColor(240, 240, 230));
        p.drawEllipse(*eye, 5, 5);
    }
}

static const QColor room_color(126, 200, 168); // over the picture, in both themes

/// A point of a drawn room's side, at its middle.
static glm::vec3 side_middle(const DrawnRoom& room, int side) {
    glm::vec3 p = 0.5f * (room.low + room.high);
    p[side / 2] = (side % 2 ? room.high : room.low)[side / 2];
    return p;
}

std::optional<QPointF> OutsideCanvas::handle(const DrawnRoom& room, int side) const {
    const glm::vec3 at = side_middle(room, side);
    glm::vec3 along(0.0f);
    along[side / 2] = 1;
    const auto here = place(at), there = place(at + along);
    // A metre that is looked at end on cannot be dragged along.
    return here && there && QLineF(*here, *there).length() > 2 ? here : std::nullopt;
}

void OutsideCanvas::paint_rooms(QPainter& p) const {
    for (const DrawnRoom& r : question_->scene.drawnRooms) {
        p.setPen(QPen(room_color, 1.4));
        paint_box(p, {r.low, r.high});
        if (const auto at = place({r.low.x, r.high.y, r.low.z}))
            p.drawText(*at + QPointF(6, -5), QString::fromStdString(r.name));
        for (int side = 0; side < 6; ++side)
            if (const auto at = handle(r, side))
                p.fillRect(QRectF(at->x() - 4, at->y() - 4, 8, 8),
                           grip_ && grip_->room.id == r.id && grip_->side == side ? QColor(255, 255, 245) : room_color);
    }
}

void OutsideCanvas::mousePressEvent(QMouseEvent* e) {
    last_ = e->pos();
    if (!question_ || e->modifiers() != Qt::NoModifier) return;
    double nearest = 9; // pixels
    for (const DrawnRoom& r : question_->scene.drawnRooms)
        for (int side = 0; side < 6; ++side)
            if (const auto at = handle(r, side))
                if (const double far = QLineF(*at, e->position()).length(); far < nearest) {
                    nearest = far;
                    grip_ = Grip{r, side, e->position()};
                }
    update();
}

void OutsideCanvas::mouseReleaseEvent(QMouseEvent*) {
    if (!std::exchange(grip_, std::nullopt)) return;
    emit side_dropped();
    update();
}

void OutsideCanvas::drag_side(const QPointF& to) {
    const int axis = grip_->side / 2;
    const glm::vec3 at = side_middle(grip_->room, grip_->side);
    glm::vec3 along(0.0f);
    along[axis] = 1;
    const auto here = place(at), there = place(at + along);
    if (!here || !there) return;
    const QPointF metre = *there - *here, by = to - grip_->from;
    const double far = QPointF::dotProduct(by, metre) / QPointF::dotProduct(metre, metre);
    emit side_dragged(grip_->room.id, grip_->side, at[axis] + static_cast<float>(std::round(far * 20) / 20));
}

void OutsideCanvas::mouseMoveEvent(QMouseEvent* e) {
    if (grip_) return drag_side(e->position());
    const QPoint by = e->pos() - std::exchange(last_, e->pos());
    if (e->modifiers() & Qt::ShiftModifier) {
        const float metres = distance_ / static_cast<float>(std::max(1, height()));
        const glm::vec3 right(std::cos(turn_), 0, -std::sin(turn_)), away(-std::sin(turn_), 0, -std::cos(turn_));
        aside_ += metres * (static_cast<float>(-by.x()) * right + static_cast<float>(by.y()) * away);
    } else {
        turn_ -= 0.008f * static_cast<float>(by.x());
        pitch_ = std::clamp(pitch_ + 0.006f * static_cast<float>(by.y()), 0.35f, 1.5f);
    }
    if (question_) shown_ = outside(question_->inside);
    update();
    emit moved();
}

void OutsideCanvas::wheelEvent(QWheelEvent* e) {
    distance_ = std::clamp(distance_ * std::pow(1.0015f, static_cast<float>(-e->angleDelta().y())), 4.0f, 400.0f);
    if (question_) shown_ = outside(question_->inside);
    update();
    emit moved();
}

void OutsideCanvas::resizeEvent(QResizeEvent* e) {
    if (question_) shown_ = outside(question_->inside);
    // Not for the line more or less that the words below take: they change with every answer.
    if (e->size().width() != e->oldSize().width() || std::abs(e->size().height() - e->oldSize().height()) > 60)
        emit moved();
}

OutsideView::OutsideView(Document& document, WorkerOptions options, QWidget* parent)
    : QWidget(parent), document_(document), canvas_(new OutsideCanvas(this)), head_(new QLabel(this)),
      told_(quiet_label({}, this)), walks_(new QComboBox(this)), time_(new QSlider(Qt::Horizontal, this)),
      options_(std::move(options)), task_([] {}) {
    options_.background = true;
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 4, 6, 6);
    column->setSpacing(4);
    auto* line = new QHBoxLayout;
    line->addWidget(head_, 1);
    auto* back = new QToolButton(this);
    back->setObjectName("framed");
    back->setText(tr("Back to the picture"));
    back->setToolTip(tr("The picture again (K)"));
    line->addWidget(back);
    column->addLayout(line);
    column->addWidget(canvas_, 1);
    told_->setObjectName("outside told");
    told_->setWordWrap(true);
    told_->setMinimumHeight(2 * told_->fontMetrics().lineSpacing());
    column->addWidget(told_);
    auto* below = new QHBoxLayout;
    below->setSpacing(6);
    walks_->setObjectName("outside walk");
    walks_->setAccessibleName(tr("Walk"));
    walks_->setToolTip(tr("The walk that the slider moves the eye along."));
    time_->setObjectName("outside time");
    time_->setRange(0, 1000);
    time_->setAccessibleName(tr("Place on the walk"));
    time_->setToolTip(tr("Moves the eye along the walk."));
    below->addWidget(walks_);
    below->addWidget(time_, 1);
    column->addLayout(below);
    head_->setText(tr("<b>From outside</b>: what this frame draws, and what it leaves out"));
    rest_.setSingleShot(true);
    rest_.setInterval(60);
    connect(&rest_, &QTimer::timeout, this, &OutsideView::refresh);
    connect(back, &QToolButton::clicked, this, &OutsideView::back_wanted);
    connect(canvas_, &OutsideCanvas::moved, &rest_, qOverload<>(&QTimer::start));
    connect(canvas_, &OutsideCanvas::side_dragged, this, &OutsideView::move_side);
    connect(canvas_, &OutsideCanvas::side_dropped, this, [this] { document_.set_interactive(false); });
    connect(time_, &QSlider::valueChanged, this, [this](int at) {
        const auto& walks = document_.project().walks;
        const int chosen = walks_->currentIndex();
        if (chosen < 0 || chosen >= static_cast<int>(walks.size())) return;
        const Walk& w = walks[static_cast<std::size_t>(chosen)];
        if (w.keys.empty()) return;
        document_.move_camera(
            camera_on(w, w.keys.front().seconds + (w.keys.back().seconds - w.keys.front().seconds) * at / 1000.0));
        emit document_.settled();
    });
    connect(&document_, &Document::changed, this, &OutsideView::take_document);
    connect(&document_, &Document::camera_moved, &rest_, qOverload<>(&QTimer::start));
}

OutsideView::~OutsideView() {
    task_.stop();
}

void OutsideView::showEvent(QShowEvent*) {
    take_document();
    refresh();
}

void OutsideView::take_document() {
    if (!document_.is_open()) return;
    QStringList names;
    for (const Walk& w : document_.project().walks)
        names << QString::fromStdString(w.name);
    QStringList present;
    for (int i = 0; i < walks_->count(); ++i)
        present << walks_->itemText(i);
    if (names != present) {
        walks_->clear();
        walks_->addItems(names);
    }
    walks_->setVisible(!names.isEmpty());
    time_->setVisible(!names.isEmpty());
    rest_.start();
}

void OutsideView::refresh() {
    if (!isVisible() || !document_.is_open() || !document_.is_solid()) return;
    OutsideQuestion q{
        document_.scene(), document_.project().setup, on_target(document_.project().view, document_.target()), {}};
    q.inside.stereo = Stereo::off; // of the eye between both
    canvas_->set_over(q.inside.camera.eye);
    q.outside = canvas_->outside(q.inside);
    canvas_->set_question(q);
    busy_ = true;
    task_.ask([this, q](const NewestTask::GoesOn& goes_on) {
        if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
        const auto tell = [this, q](const OutsideAnswer& a, bool over) {
            QMetaObject::invokeMethod(
                this, [this, q, kept = std::make_shared<const OutsideAnswer>(a), over] { take(q, kept, over); });
        };
        auto answer = look_from_outside(*worker_, q, [&](const OutsideAnswer& soFar) {
            if (!goes_on()) return false;
            tell(soFar, false);
            return true;
        });
        if (!goes_on()) return;
        if (!answer) {
            QMetaObject::invokeMethod(this, [this, words = QString::fromStdString(to_text(answer.error()))] {
                busy_ = false;
                told_->setText(words);
            });
            return;
        }
        tell(*answer, true);
    });
}

void OutsideView::move_side(int room, int side, float to) {
    document_.set_interactive(true);
    document_.edit(
        tr("a room's side"),
        [&](Project& p) {
            for (DrawnRoom& r : p.drawnRooms)
                if (r.id == room) mirolux::move_side(r, side, to);
        },
        QString("room %1 %2").arg(room).arg(side));
}

void OutsideView::take(const OutsideQuestion& q, std::shared_ptr<const OutsideAnswer> answer, bool over) {
    if (over) busy_ = false;
    const OutsideAnswer& a = *answer;
    QString words = tr("%1 of %2 objects in the frustum are drawn; %3 of them show nothing; %4 that show are left out.")
                        .arg(a.drawnCount)
                        .arg(a.inFrustum)
                        .arg(a.drawnUnseen)
                        .arg(a.leftOutSeen);
    if (a.lightsBehind > 0) words += tr(" %1 lamps whose light no open door lets in cost nothing.").arg(a.lightsBehind);
    words += a.eyes == 0 ? tr(" Counted in a small picture so far.")
                         : tr(" Counted in whole pictures of %1 of %2 eyes nearby.").arg(a.eyes).arg(a.allEyes);
    if (!a.note.empty()) words += " " + QString::fromStdString(a.note);
    told_->setText(words);
    canvas_->set_answer(std::move(answer), q.outside);
    emit answered();
}

} // namespace mirolux::app
