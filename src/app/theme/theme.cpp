#include "app/theme/theme.h"

#include <QApplication>
#include <QHash>
#include <QPainterPath>
#include <QPalette>

#include <cmath>

/// Outside of all namespaces, as Qt wants it.
static void makeMarksKnown()
{
    Q_INIT_RESOURCE(marks);
}

namespace stone::theme
{

namespace
{

constexpr auto styleSheet = R"(
QWidget { color: %ink%; }
QMainWindow, QDialog, QMenuBar, QMenu, QToolTip { background: %panel%; }
QMenuBar { font-size: 9pt; }
QMenuBar::item { padding: 3px 9px; background: transparent; }
QMenuBar::item:selected, QMenu::item:selected { background: %shade%; color: %ink%; }
QMenu { border: 1px solid %line%; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 14px; }
QMenu::item:disabled { color: %faint%; }
QMenu::separator { height: 1px; background: %line%; margin: 4px 8px; }
QToolTip { border: 1px solid %line%; padding: 4px; }
QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox {
  background: white; border: 1px solid %line%; border-radius: 4px; padding: 2px 6px; min-height: 19px;
  selection-background-color: %verdigris%; selection-color: white; }
QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus, QPushButton:focus, QToolButton:focus, QListView:focus,
QCheckBox:focus, QSlider:focus { border: 1px solid %verdigris%; }
QLineEdit:disabled, QDoubleSpinBox:disabled, QComboBox:disabled { color: %faint%; background: %panel%; }
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button { width: 0; }
QComboBox { padding-right: 16px; }
QComboBox::drop-down { width: 17px; border: 0; }
QComboBox::down-arrow { image: url(:/marks/chooser.xpm); width: 9px; height: 5px; }
QComboBox QAbstractItemView { background: white; border: 1px solid %line%; selection-background-color: %shade%; selection-color: %ink%; }
QPushButton, QToolButton { background: white; border: 1px solid %line%; border-radius: 4px; padding: 3px 10px; }
QPushButton:hover, QToolButton:hover { border-color: %soft%; }
QPushButton:disabled, QToolButton:disabled { color: %faint%; }
QToolButton:checked { background: %ink%; color: white; border-color: %ink%; }
QPushButton[link="true"] { border: 1px solid transparent; background: transparent; color: %verdigris%; padding: 1px 3px; font-weight: bold; }
QPushButton[link="true"]:hover { text-decoration: underline; }
QPushButton[link="true"]:disabled { color: %faint%; }
QPushButton#listen { background: %verdigris%; color: white; border: 0; border-radius: 13px; padding: 5px 16px; font-weight: bold; }
QPushButton#listen:checked { background: %cinnabar%; }
QPushButton#listen:focus { border: 2px solid %ink%; padding: 3px 14px; }
QCheckBox { border: 1px solid transparent; padding: 1px; }
QTreeView { background: white; border: 1px solid %line%; border-radius: 4px; }
QTreeView::indicator { width: 11px; height: 11px; border: 1px solid %soft%; border-radius: 2px; background: white; }
QTreeView::indicator:checked { background: %verdigris%; border-color: %verdigris%; }
QHeaderView::section { background: %panel%; border: 0; border-bottom: 1px solid %line%; padding: 2px 4px; }
QListView { background: transparent; border: 1px solid transparent; outline: 0; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: 0; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar::handle:vertical { background: %line%; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QTabBar::tab { padding: 5px 1px; margin-right: 13px; border: 0; border-bottom: 2px solid transparent; color: %soft%; background: transparent; }
QTabBar::tab:selected { color: %ink%; border-bottom: 2px solid %verdigris%; font-weight: bold; }
QTabBar::tab:focus { color: %verdigris%; }
QSlider { border: 1px solid transparent; border-radius: 4px; }
QSlider::groove:horizontal { height: 3px; background: %line%; }
QSlider::handle:horizontal { width: 9px; margin: -5px 0; background: %ink%; border-radius: 4px; }
QSlider::sub-page:horizontal { background: %verdigris%; }
QSlider::groove:vertical { width: 3px; background: %line%; }
QSlider::handle:vertical { height: 9px; margin: 0 -5px; background: %ink%; border-radius: 4px; }
QSlider::handle:disabled, QSlider::sub-page:disabled { background: %line%; }
)";

} // namespace

void apply(QApplication& app)
{
    makeMarksKnown();
    QApplication::setStyle("Fusion");
    QPalette palette;
    palette.setColor(QPalette::Window, panel);
    palette.setColor(QPalette::Base, Qt::white);
    palette.setColor(QPalette::WindowText, ink);
    palette.setColor(QPalette::Text, ink);
    palette.setColor(QPalette::ButtonText, ink);
    palette.setColor(QPalette::PlaceholderText, faint);
    palette.setColor(QPalette::Highlight, verdigris);
    palette.setColor(QPalette::HighlightedText, Qt::white);
    QApplication::setPalette(palette);
    QApplication::setFont(text(9.5));
    QString sheet = styleSheet;
    const std::pair<const char*, QColor> names[] = {
        {"%ink%", ink},   {"%panel%", panel}, {"%shade%", shade},         {"%line%", line},
        {"%soft%", soft}, {"%faint%", faint}, {"%verdigris%", verdigris}, {"%cinnabar%", cinnabar}};
    for (const auto& [name, colour] : names) {
        sheet.replace(name, colour.name());
    }
    app.setStyleSheet(sheet);
}

namespace
{

/// A font that was made before, or made now. One map for each thread, so that none waits.
template <typename Make>
QFont kept(QHash<std::pair<double, int>, QFont>& fonts, double points, QFont::Weight weight, Make&& make)
{
    const std::pair<double, int> key{points, weight};
    auto known = fonts.find(key);
    if (known == fonts.end()) {
        QFont font = make();
        font.setPointSizeF(points);
        font.setWeight(weight);
        known = fonts.insert(key, font);
    }
    return *known;
}

} // namespace

QFont text(double points, QFont::Weight weight)
{
    thread_local QHash<std::pair<double, int>, QFont> fonts;
    return kept(fonts, points, weight, [] { return QFont("Lato"); });
}

QFont number(double points, QFont::Weight weight)
{
    thread_local QHash<std::pair<double, int>, QFont> fonts;
    return kept(fonts, points, weight, [] {
        QFont font("DejaVu Sans Mono");
        font.setStyleHint(QFont::Monospace);
        return font;
    });
}

QColor colourOf(EmitterKind kind)
{
    switch (kind) {
    case EmitterKind::bed: return verdigris;
    case EmitterKind::area: return lapis;
    case EmitterKind::sprinkle: return mallow;
    case EmitterKind::roamer: return malachite;
    case EmitterKind::steps: return umber;
    case EmitterKind::point: break;
    }
    return ochre;
}

void drawMark(QPainter& painter, EmitterKind kind, const QPointF& c, double size, const QColor& colour, bool hollow)
{
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const double r = size / 2.0;
    if (kind == EmitterKind::bed) {
        painter.setPen(QPen(colour, std::max(1.4, size / 9.0), Qt::SolidLine, Qt::RoundCap));
        for (int row = -1; row <= 1; ++row) {
            QPainterPath wave;
            const double y = c.y() + row * r * 0.65;
            wave.moveTo(c.x() - r, y);
            wave.cubicTo(c.x() - r / 2, y - r * 0.7, c.x() - r / 2, y - r * 0.7, c.x(), y);
            wave.cubicTo(c.x() + r / 2, y + r * 0.7, c.x() + r / 2, y + r * 0.7, c.x() + r, y);
            painter.drawPath(wave);
        }
    } else if (kind == EmitterKind::area) {
        const QRectF square(c.x() - r * 0.85, c.y() - r * 0.85, 1.7 * r, 1.7 * r);
        painter.fillRect(square, paper);
        painter.setPen(QPen(colour, std::max(1.2, size / 11.0)));
        painter.drawRect(square);
        painter.drawLine(square.bottomLeft(), square.topRight());
        painter.drawLine(QPointF(square.left(), c.y()), QPointF(c.x(), square.top()));
        painter.drawLine(QPointF(c.x(), square.bottom()), QPointF(square.right(), c.y()));
    } else if (kind == EmitterKind::sprinkle) {
        painter.setPen(hollow ? QPen(colour, 1.2) : QPen(Qt::NoPen));
        painter.setBrush(hollow ? paper : colour);
        painter.drawEllipse(QPointF(c.x() - r * 0.5, c.y() + r * 0.35), r * 0.36, r * 0.36);
        painter.drawEllipse(QPointF(c.x() + r * 0.55, c.y() + r * 0.5), r * 0.28, r * 0.28);
        painter.drawEllipse(QPointF(c.x() + r * 0.15, c.y() - r * 0.5), r * 0.42, r * 0.42);
    } else if (kind == EmitterKind::roamer) {
        painter.setPen(QPen(colour, hollow ? 1.4 : 0.8));
        painter.setBrush(hollow ? paper : colour);
        painter.drawPolygon(QPolygonF{{QPointF(c.x() + r, c.y()), QPointF(c.x() - r * 0.3, c.y() - r * 0.75),
                                       QPointF(c.x() - r * 0.3, c.y() + r * 0.75)}});
        painter.setPen(QPen(colour, std::max(1.2, size / 9.0), Qt::DotLine));
        painter.drawLine(QPointF(c.x() - r * 1.1, c.y()), QPointF(c.x() - r * 0.4, c.y()));
    } else if (kind == EmitterKind::steps) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.drawEllipse(QPointF(c.x() - r * 0.45, c.y() + r * 0.3), r * 0.32, r * 0.62);
        painter.drawEllipse(QPointF(c.x() + r * 0.45, c.y() - r * 0.3), r * 0.32, r * 0.62);
    } else {
        const QPolygonF diamond{
            {QPointF(c.x(), c.y() - r), QPointF(c.x() + r, c.y()), QPointF(c.x(), c.y() + r), QPointF(c.x() - r, c.y())}};
        painter.setPen(QPen(colour, hollow ? 1.4 : 0.8));
        painter.setBrush(hollow ? paper : colour);
        painter.drawPolygon(diamond);
    }
    painter.restore();
}

QString signedNumber(double value, int decimals)
{
    QString shown = QString::number(std::abs(value), 'f', decimals);
    const bool zero = shown.toDouble() == 0.0;
    return (value < 0.0 && !zero ? QStringLiteral("−") : QString()) + shown;
}

QString decibels(double db)
{
    return std::isfinite(db) ? signedNumber(db, 1) : QStringLiteral("silent");
}

QString metres(double m)
{
    return QString::number(m, 'f', std::abs(m) < 100.0 ? 1 : 0) + " m";
}

QString clock(double seconds)
{
    const int minutes = static_cast<int>(seconds) / 60;
    return QString("%1:%2").arg(minutes).arg(seconds - 60.0 * minutes, 4, 'f', 1, '0');
}

} // namespace stone::theme
