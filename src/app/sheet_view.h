#pragma once
#include "core/finish/layer_sheet.h"
#include <QImage>
#include <QWidget>
#include <memory>
#include <vector>

class QLabel;
class QToolButton;

namespace mirolux::app {

/// The frame broken into its layers: what adds up in a row, under each the sum so far, and below what is done to them.
/// A click on a layer holds it in the picture.
class SheetCanvas : public QWidget {
    Q_OBJECT
public:
    explicit SheetCanvas(QWidget* parent = nullptr);
    void show_sheet(std::shared_ptr<const LayerSheet> sheet);
    const LayerSheet* sheet() const { return sheet_.get(); }
    /// Where a layer's own cell stands; empty: it is not on the sheet.
    QRect cell(const std::string& layer) const;
    QSize sizeHint() const override;

signals:
    void tells(const QString& text);
    void layer_wanted(const QString& layer);

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

private:
    struct Placed {
        const SheetCell* cell;
        QImage image;
        QRect box; // of the picture
        bool sum = false;
    };
    struct Heading {
        QString text;
        int y;
    };
    void place();
    const Placed* at(const QPoint& p) const;

    std::shared_ptr<const LayerSheet> sheet_;
    std::vector<Placed> placed_;
    std::vector<Heading> headings_;
    const Placed* hovered_ = nullptr;
    int bottom_ = 0;
};

/// The sheet in the picture's place.
class SheetView : public QWidget {
    Q_OBJECT
public:
    explicit SheetView(QWidget* parent = nullptr);
    SheetCanvas& canvas() { return *canvas_; }
    bool grey() const;
    void show_sheet(std::shared_ptr<const LayerSheet> sheet);
    /// Why there is none, or that it is under way.
    void say(const QString& words);

signals:
    void back_wanted();
    void look_changed(); // colour, or black and white
    void save_wanted();

private:
    SheetCanvas* canvas_;
    QLabel* head_;
    QToolButton* grey_;
};

} // namespace mirolux::app
