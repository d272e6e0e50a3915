#pragma once
#include "app/document.h"
#include "app/picture_pair.h"
#include "app/tile_map.h"
#include "core/account/pixel_account.h"
#include "core/image/image.h"
#include "core/light/handles.h"
#include <QElapsedTimer>
#include <QImage>
#include <QSet>
#include <QTimer>
#include <QWidget>

namespace mirolux::app {

/// Paints the newest picture and, over it, lights and handles; turns mouse and keys into camera moves and light edits.
class Viewport : public QWidget {
    Q_OBJECT
public:
    Viewport(Document& document, QWidget* parent = nullptr);

    void show_picture(const QImage& scaled, QSize pictureSize, bool quick);
    /// B's picture, to share the picture with A's; a null image: A alone.
    void show_b(const QImage& scaled);
    void show_difference(const std::shared_ptr<const PairDifference>& difference);
    void set_pair_view(PairView view);
    /// While something is measured nothing moves: the blink stands still.
    void set_quiet(bool on) { quiet_ = on; }
    PairView pair_view() const { return pairView_; }
    bool has_b() const { return !pictureB_.isNull(); }
    /// Where the wipe lies: share of the picture's width (or height) that A has.
    double wipe() const { return wipe_; }
    void turn_wipe();
    void show_message(const QString& text, bool trouble);
    /// Plain values of what is shown and its picture in full size, for the loupe; null: none yet. whole: integers.
    void set_values(std::shared_ptr<const FloatImage> values, const QImage& picture, bool whole);
    void set_loupe(bool on);
    bool loupe() const { return loupe_; }
    /// What the loupe says about the texel under the pointer.
    QStringList loupe_words() const;
    void set_lights_shown(bool on);
    void set_tile_map(const TileMap& map);
    void set_tile_map_shown(bool on);
    bool tile_map_visible() const { return tileMapShown_ && !tileMap_.empty(); }
    void select_tile(std::optional<TileCell> cell) {
        tileMap_.select(cell);
        update();
    }
    void mark_tiles(int low, int high) {
        tileMap_.mark_lengths(low, high);
        update();
    }
    /// The account of the pixel under the pointer, shown beside it; none: nothing is shown.
    void show_account(const std::optional<PixelAccount>& account);
    bool asks_for_pixel() const { return asksForPixel_; }
    void select_light(int id); // -1: none
    int selected_light() const { return selected_; }
    void frame_selection();
    bool has_picture() const { return !picture_.isNull(); }
    /// Where the picture lies in the widget, and the view as it is shown there (its size in widget pixels).
    QRectF picture_rect() const;
    View shown_view() const;
    /// Widget position of a world point; empty when behind the camera.
    std::optional<QPointF> place_of(const glm::vec3& point) const;
    std::vector<Handle> handles() const;

signals:
    void light_picked(int id);
    void tile_picked(std::optional<TileCell> cell);
    void pixel_wanted(QPoint pixel, bool hold); // of the target's picture, while Alt is held
    void pixel_left();
    void display_resized(QSize pixels);
    void painted_picture();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    enum class Drag { none, maybePick, orbit, pan, look, handle, wipe };
    bool on_wipe(const QPointF& at) const;
    void paint_pair(QPainter& p, const QRectF& r);
    int light_near(const QPointF& at) const;
    int handle_near(const QPointF& at) const; // index into handles(), -1 none
    Ray ray_at(const QPointF& at) const;
    float reach_of(const Light& light) const;
    void paint_lights(QPainter& p);
    QRectF a_part(const QRectF& picture) const;
    void paint_tile_map(QPainter& p);
    void paint_reach(QPainter& p, const Light& light);
    void paint_handles(QPainter& p);
    void paint_tile_label(QPainter& p);
    void paint_account(QPainter& p);
    void paint_loupe(QPainter& p);
    QRectF shown_rect() const;
    QPoint texel_under() const;
    void paint_label(QPainter& p, const QPointF& at, const QStringList& lines);
    void ask_for_pixel(const QPointF& at, bool hold);
    void stop_asking();
    void fly_step();

    Document& document_;
    QImage picture_, pictureB_;
    std::shared_ptr<const PairDifference> difference_;
    bool quiet_ = false;
    PairView pairView_ = PairView::wipe;
    double wipe_ = 0.5;
    bool wipeAcross_ = true, blinkB_ = false; // across: A left, B right
    QTimer blinkTimer_;
    QSize pictureSize_;
    std::shared_ptr<const FloatImage> values_;
    QImage fullPicture_; // of the values' size
    bool loupe_ = false, wholeValues_ = false;
    bool quick_ = false, lightsShown_ = false, trouble_ = false;
    QString message_;
    TileMap tileMap_;
    bool tileMapShown_ = false, asksForPixel_ = false;
    std::optional<PixelAccount> account_;
    QPointF pointer_;
    int selected_ = -1, hovered_ = -1, hoveredHandle_ = -1;
    Drag drag_ = Drag::none;
    QPointF press_, last_;
    HandleKind draggedKind_ = HandleKind::ground;
    Light dragStart_;
    float dragReach_ = 1;
    QSet<int> keys_;
    QTimer flyTimer_, wheelPause_;
    QElapsedTimer flyClock_;
};

} // namespace mirolux::app
