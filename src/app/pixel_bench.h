#pragma once
#include "core/account/pixel_account.h"
#include <QWidget>

class QLabel;
class QPushButton;

namespace mirolux::app {

/// The account's rows: each surface, each light's share with its factors.
class AccountRows : public QWidget {
    Q_OBJECT
public:
    explicit AccountRows(QWidget* parent = nullptr);
    void show_account(const PixelAccount& account);

signals:
    void light_picked(int id);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;

private:
    struct Row {
        enum class Kind { surface, part, light, stage, note } kind = Kind::note;
        int y = 0, height = 0;
        QString name = {}, detail = {}, value = {};
        double share = 0; // of the pixel's luminance
        int light = -1;
        bool alarm = false;
        QColor color = {};
    };
    void add(Row row, int height);
    void add_note(const QString& text, int height);
    void add_parts(const SurfaceAccount& s, double total);
    void add_lights(const SurfaceAccount& s, double total);
    void add_cell(const CellAccount& cell, double total);
    void add_air_lights(const PixelAccount& a, double total);
    void add_stages(const PixelAccount& a);
    std::vector<Row> rows_;
    const Row* at(const QPoint& point) const;
};

/// Why a pixel has its value.
class PixelBench : public QWidget {
    Q_OBJECT
public:
    explicit PixelBench(QWidget* parent = nullptr);
    void show_account(const PixelAccount& account);
    void set_held(bool held);
    QString reason() const;

signals:
    void light_picked(int id);
    void back_wanted();

private:
    QLabel *title_, *reason_, *sums_, *hint_;
    AccountRows* rows_;
    QPushButton* back_;
};

} // namespace mirolux::app
