#pragma once
#include "app/document.h"
#include "app/picture_pair.h"
#include "app/selection.h"
#include "app/shown_shot.h"
#include "app/tile_map.h"
#include "core/account/pixel_account.h"
#include "core/ambient/probe_capture.h"
#include "core/bake/space_probes.h"
#include "core/blocks/world_edits.h"
#include "core/image/image.h"
#include "core/light/handles.h"
#include "core/scene/built.h"
#include "core/scene/place_handles.h"
#include "core/shadow/shadow_session.h"
#include <QElapsedTimer>
#include <QImage>
#include <QSet>
#include <QTimer>
#include <QWidget>

namespace mirolux::app {

/// Paints the newest picture and, over it, lights, objects and handles; turns mouse and keys into camera moves, into
/// what is selected, and into edits of it.
class Viewport : public QWidget {
    Q_OBJECT
public:
    Viewport(Document& document, Selection& selection, QWidget* parent = nullptr);

    /// What a click takes: lights by their marks, or objects by the surface that is seen.
    enum class Takes { nothing, lights, objects, proxies };
    void set_takes(Takes takes);
    Takes takes() const { return takes_; }
    /// A drag in the picture of a Blocks stage changes cells; none: it turns the view.
    void set_brush(std::optional<blocks::Brush> brush);
    /// The next drag over the picture lays the ground of a new proxy.
    void draw_proxy(bool on);
    bool draws_proxy() const { return drawsProxy_; }
    /// What clicks put into the scene: how it looks at the pointer, standing on its box's underside.
    struct BuildWish {
        QString name;
        Box box; // before it is placed
        std::vector<std::pair<glm::vec3, glm::vec3>> edges;
        float scale = 1;
    };
    void build(std::optional<BuildWish> wish);
    bool builds() const { return wish_.has_value(); }
    /// Where drags of objects stop.
    void set_snap(const Snap& snap) { snap_ = snap; }
    /// Pixels where rays say that shadows are wrong, over the picture; null: none.
    void set_faults(const std::shared_ptr<const ShadowReport>& report);
    bool shows_faults() const { return !faults_.isNull(); }

    void show_picture(const QImage& scaled, QSize pictureSize, bool quick);
    /// B's picture, to share the picture with A's; a null image: A alone.
    void show_b(const QImage& scaled, const QImage& full = {});
    void show_difference(const std::shared_ptr<const PairDifference>& difference);
    /// What the two pictures that share the place are called; A and B unless said otherwise.
    void name_sides(const QString& a, const QString& b);
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
    /// Shows the loupe at a pixel until the pointer moves.
    void pin_loupe(QPoint pixel);
    bool loupe() const { return loupe_; }
    /// What the loupe says about the texel under the pointer.
    QStringList loupe_words() const;
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
    void frame_selection();
    /// Probes stand in the picture as a mirror ball and a matt one, and can be taken there.
    void show_probes(bool on);
    /// Probes in space that are drawn as balls in the picture now.
    int space_probes_shown() const { return spaceBalls_.shown; }
    /// The patch that shot last and what it lit, over the picture; number 0: none.
    void show_shot(ShownShot shot);
    int patches_shown() const { return patchesDrawn_; }
    /// What was baked and is not used, as it is stale: told over the picture; empty: nothing.
    void show_stale(const QString& names);
    const QString& stale() const { return stale_; }
    /// What a meter weighs, over the picture; a spot can be dragged.
    void show_meter(bool on);
    /// The disc of a spot, or the middle's size, in the widget; empty where none is shown.
    std::optional<QRectF> meter_rect() const;
    /// EV100 that the picture's meter came to; none: it is exposed by hand.
    void set_metered(std::optional<double> ev100);
    bool has_picture() const { return !picture_.isNull(); }
    /// Where the picture lies in the widget, and the view as it is shown there (its size in widget pixels).
    QRectF picture_rect() const;
    View shown_view() const;
    /// Widget position of a world point; empty when behind the camera.
    std::optional<QPointF> place_of(const glm::vec3& point) const;
    /// Handles of the one light that is selected; none if it is another selection.
    std::vector<Handle> handles() const;
    /// What the handles are of: the selected light, or a cheap one in a shape or a cloud, as a light of its place and
    /// size.
    std::optional<Light> held() const;
    /// Handles of any other selection.
    std::vector<PlacedHandle> place_handles() const;
    /// Lights or objects inside a rectangle of the widget: marks, and boxes that lie wholly in it.
    std::vector<int> inside(const QRectF& band) const;
    /// The object that is seen at a place; -1: none. `without`: what to look through.
    int object_at(const QPointF& at, std::span<const int> without = {}) const;

signals:
    void proxy_drawn(const mirolux::ObjectEdit& drawn);          // without a name
    void thing_put(const mirolux::ObjectEdit& place, bool more); // more: others are to follow
    void tile_picked(std::optional<TileCell> cell);
    void pixel_wanted(QPoint pixel, bool hold); // of the target's picture, while Alt is held
    void pixel_left();
    void way_pointed(const std::optional<glm::vec3>& direction); // that the pointer rests on; none: it has left
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
    enum class Drag { none, maybePick, orbit, pan, look, handle, place, band, wipe, proxy, piece, meter, brush };
    /// Units of the stage under a place of the widget.
    glm::dvec2 unit_at(const QPointF& at) const;
    std::vector<flat::PieceGrip> grips() const;
    int grip_near(const QPointF& at) const; // index into grips(), -1 none
    bool begin_piece(const QPointF& at);
    void drag_piece(const QPointF& to, bool stepped);
    void end_piece();
    void pick_piece(const QPointF& at, bool again); // again: at the place of the last click
    void paint_stage(QPainter& p);
    std::optional<blocks::PickedCell> brush_at(const QPointF& at) const;
    bool begin_brush(const QPointF& at);
    void drag_brush(const QPointF& to);
    void end_brush();
    void paint_brush(QPainter& p);
    void paint_way(QPainter& p, const std::vector<glm::ivec3>& way);
    void paint_flat_reach(QPainter& p, const Light& light);
    bool on_wipe(const QPointF& at) const;
    void paint_pair(QPainter& p, const QRectF& r);
    int light_near(const QPointF& at) const;
    int handle_near(const QPointF& at) const; // index into handles(), -1 none
    Ray ray_at(const QPointF& at) const;
    float reach_of(const Light& light) const;
    double fade_of(const Light& light) const;
    void paint_lights(QPainter& p);
    QRectF a_part(const QRectF& picture) const;
    void paint_tile_map(QPainter& p);
    void paint_reach(QPainter& p, const Light& light);
    void paint_cloud(QPainter& p, const AirVolume& cloud);
    void paint_sides(QPainter& p, const std::function<glm::vec3(const glm::vec3&)>& place, const QColor& color);
    void paint_meter(QPainter& p);
    bool on_spot(const QPointF& at) const;
    void drag_spot(const QPointF& step);
    void paint_probes(QPainter& p);
    void paint_probe(QPainter& p, const Probe& probe);
    void paint_space_probes(QPainter& p);
    void paint_shot(QPainter& p);
    int probe_near(const QPointF& at) const; // Probe::id, -1 none
    double ball_radius(const Probe& probe) const;
    void paint_handles(QPainter& p);
    void paint_objects(QPainter& p);
    void paint_proxies(QPainter& p);
    void paint_faults(QPainter& p);
    void paint_box(QPainter& p, const glm::mat4& place, bool strong);
    bool begin_proxy(const QPointF& at);
    void size_proxy(const QPointF& at);
    void end_proxy();
    /// A surface that is seen at a place, or the ground's level; on the grid.
    struct Met {
        glm::vec3 point, normal;
    };
    std::optional<Met> surface_at(const QPointF& at, std::span<const int> without = {}) const;
    void find_ghost(const QPointF& at);
    bool put_thing(const QPointF& at, bool more);
    void paint_ghost(QPainter& p);
    void paint_place_handles(QPainter& p);
    void paint_fade(QPainter& p, const Light& light);
    void paint_band(QPainter& p);
    void pick(const QPointF& at, bool more);
    void hover(const QPointF& at);
    int place_handle_near(const QPointF& at) const; // index into place_handles(), -1 none
    std::optional<PlaceFrame> place_frame() const;
    /// What is selected, as things: the parts of a node that stand together are one, with its box as the file has it.
    struct Thing {
        Box inFile;
        ObjectEdit edit;
    };
    std::vector<Thing> things() const;
    void begin_placing(PlaceHandle kind);
    void place_to(const QPointF& at, bool stepped);
    void drag_light(const QPointF& to);
    /// What a box covers of the widget; empty where a corner lies behind the eye.
    std::optional<QRectF> on_screen(const Box& box) const;
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
    Selection& selection_;
    Takes takes_ = Takes::objects;
    bool drawsProxy_ = false;
    std::optional<BuildWish> wish_;
    std::optional<ObjectEdit> ghost_; // where it would stand
    Snap snap_;
    bool probesShown_ = false, meterShown_ = false;
    std::optional<double> metered_;
    /// Probes in space as they were drawn last, and of what.
    struct SpaceBalls {
        std::shared_ptr<const ProbeGrid> grid;
        View view;
        Setup setup;
        QRectF rect;
        QImage picture;
        int shown = 0;
    };
    SpaceBalls spaceBalls_;
    ShownShot shot_;
    int patchesDrawn_ = 0;
    /// A probe's balls as they were drawn last, and of what.
    struct Balls {
        std::shared_ptr<const ProbeLight> light;
        glm::vec3 eye{0.0f};
        Setup setup;
        QImage mirror, matt;
    };
    std::map<int, Balls> balls_; // by Probe::id
    QImage faults_;
    std::array<int, 5> faultCounts_{};     // by ShadowFault
    std::optional<ObjectEdit> drawnProxy_; // while it is laid out
    glm::vec3 proxyCorner_{0.0f};
    QImage picture_, pictureB_;
    std::shared_ptr<const PairDifference> difference_;
    bool quiet_ = false;
    PairView pairView_ = PairView::wipe;
    QString sideA_ = "A", sideB_ = "B";
    double wipe_ = 0.5;
    bool wipeAcross_ = true, blinkB_ = false; // across: A left, B right
    QTimer blinkTimer_;
    QSize pictureSize_;
    std::shared_ptr<const FloatImage> values_;
    QImage fullPicture_, fullB_; // of the values' size
    bool pinned_ = false;        // the loupe needs no pointer
    bool loupe_ = false, wholeValues_ = false;
    bool quick_ = false, trouble_ = false;
    QString stale_;
    QString message_;
    TileMap tileMap_;
    bool tileMapShown_ = false, asksForPixel_ = false;
    std::optional<PixelAccount> account_;
    QPointF pointer_;
    std::optional<blocks::Brush> brush_;
    blocks::WorldPtr brushing_; // as it was when the drag began
    std::optional<blocks::PickedCell> brushed_;
    int brushStroke_ = 0;
    int hovered_ = -1, hoveredHandle_ = -1, hoveredPlace_ = -1;
    Drag drag_ = Drag::none;
    QPointF press_, last_, pickedAt_{-100, -100};
    HandleKind draggedKind_ = HandleKind::ground;
    Light dragStart_;
    /// What is placed by a drag, as it was when the drag began.
    struct Placing {
        PlaceHandle kind;
        PlaceFrame frame;
        std::vector<Light> lights;
        std::vector<ObjectEdit> objects;
        std::optional<Box> alone; // one thing: its box before its edit
    };
    std::optional<Placing> placing_;
    /// A piece of the stage as it was when a drag of it began.
    struct Taking {
        flat::WorldPtr world;
        flat::Piece piece;
        flat::PieceGrip grip;
        bool moved = false;
    };
    std::optional<Taking> taking_;
    std::vector<flat::Piece> passedPieces_; // by clicks at one place
    int hoveredGrip_ = -1;
    std::vector<int> lookedThrough_; // by clicks at one place
    QString placedBy_;               // what the drag has done so far, in words
    float dragReach_ = 1;
    QSet<int> keys_;
    QTimer flyTimer_, wheelPause_;
    QElapsedTimer flyClock_;
};

} // namespace mirolux::app
