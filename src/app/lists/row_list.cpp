// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/row_list.h"

#include "app/theme/theme.h"

#include <QDropEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include <algorithm>

namespace stone
{

namespace
{

constexpr int rowHeight = 43;
constexpr int headingHeight = 24;
constexpr int markSpace = 36;
constexpr int margin = 10;
constexpr int playSize = 18;

/// Where in a row its mark to play is.
QRect playBox(const QRect& row)
{
    return {row.right() - margin - playSize + 4, row.bottom() - playSize - 4, playSize, playSize};
}

/// A triangle to play, a square to stop.
void drawPlay(QPainter& painter, const QRect& box, bool plays)
{
    painter.setPen(Qt::NoPen);
    painter.setBrush(plays ? theme::ink : theme::soft);
    const QRectF inside = QRectF(box).adjusted(5, 4, -3, -4);
    if (plays) {
        painter.drawRect(inside.adjusted(-1, 1, -1, -1));
    } else {
        painter.drawPolygon(QPolygonF{inside.topLeft(), QPointF(inside.right(), inside.center().y()), inside.bottomLeft()});
    }
}

} // namespace

void RowModel::setRows(std::vector<Row> rows)
{
    if (rows == rows_) {
        return;
    }
    const bool sameShape = rows.size() == rows_.size() &&
                           std::equal(rows.begin(), rows.end(), rows_.begin(),
                                      [](const Row& a, const Row& b) { return a.key == b.key && a.heading == b.heading; });
    if (sameShape) {
        rows_ = std::move(rows);
        emit dataChanged(index(0), index(rowCount() - 1));
        return;
    }
    beginResetModel();
    rows_ = std::move(rows);
    endResetModel();
}

int RowModel::indexOfKey(const QString& key) const
{
    const auto found = std::find_if(rows_.begin(), rows_.end(), [&](const Row& row) { return !row.heading && row.key == key; });
    return found == rows_.end() ? -1 : static_cast<int>(found - rows_.begin());
}

int RowModel::rowCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

QVariant RowModel::data(const QModelIndex& index, int role) const
{
    const Row& item = row(index.row());
    if (role == Qt::DisplayRole || role == Qt::AccessibleTextRole) {
        return item.flags.isEmpty() ? item.title : item.title + ", " + item.flags;
    }
    if (role == Qt::ToolTipRole && !item.heading) {
        QStringList lines{item.title};
        if (!item.detail.isEmpty()) {
            lines << item.detail;
        }
        if (!item.flags.isEmpty()) {
            lines << item.flags;
        }
        if (item.plays) {
            lines << tr("The mark at the right plays it as it is; with Shift round and round, with Ctrl once");
        }
        return lines.join('\n');
    }
    return {};
}

Qt::ItemFlags RowModel::flags(const QModelIndex& index) const
{
    if (!index.isValid() || row(index.row()).heading) {
        return Qt::NoItemFlags;
    }
    const Qt::ItemFlags usual = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    return dragType.isEmpty() ? usual : usual | Qt::ItemIsDragEnabled;
}

QStringList RowModel::mimeTypes() const
{
    return {dragType};
}

QMimeData* RowModel::mimeData(const QModelIndexList& indexes) const
{
    auto* data = new QMimeData;
    if (!indexes.isEmpty()) {
        data->setData(dragType, row(indexes.first().row()).key.toUtf8());
    }
    return data;
}

QSize RowDelegate::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const auto* rows = static_cast<const RowModel*>(index.model());
    return {option.rect.width(), rows->row(index.row()).heading ? headingHeight : rowHeight};
}

void RowDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const
{
    const Row& row = static_cast<const RowModel*>(index.model())->row(index.row());
    const QRect box = option.rect;
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    if (row.heading) {
        painter->setFont(theme::text(7.5, QFont::Bold));
        painter->setPen(theme::soft);
        painter->drawText(box.adjusted(margin, 4, -margin, 0), Qt::AlignLeft | Qt::AlignVCenter, row.title.toUpper());
        painter->restore();
        return;
    }
    if (option.state & QStyle::State_Selected) {
        painter->setPen(Qt::NoPen);
        painter->setBrush(theme::shade);
        painter->drawRoundedRect(QRectF(box).adjusted(4, 1, -4, -1), 5, 5);
        painter->setBrush(theme::ink);
        painter->drawRoundedRect(QRectF(box.left() + 4, box.top() + 8, 3, box.height() - 16), 1.5, 1.5);
    }
    const QColor ink = row.faint ? theme::faint : theme::ink;
    if (row.kind) {
        QColor colour = theme::colourOf(*row.kind);
        theme::drawMark(*painter, *row.kind, QPointF(box.left() + 23, box.top() + 17), 13, row.faint ? theme::faint : colour,
                        row.faint);
    }
    painter->setFont(theme::number(9.5, QFont::Bold));
    const int valueWidth = row.value.isEmpty() ? 0 : painter->fontMetrics().horizontalAdvance(row.value) + 8;
    painter->setPen(ink);
    painter->drawText(box.adjusted(0, 4, -margin, 0), Qt::AlignRight | Qt::AlignTop, row.value);

    const int left = box.left() + (row.kind ? markSpace + 4 : margin + 2);
    const QRect title(left, box.top() + 3, box.right() - margin - valueWidth - left, 18);
    painter->setFont(theme::text(9.5, option.state & QStyle::State_Selected ? QFont::Bold : QFont::Normal));
    const QFont titleFont = painter->font();
    painter->setFont(theme::text(7.5, QFont::Bold));
    const int flagsWidth = row.flags.isEmpty() ? 0 : painter->fontMetrics().horizontalAdvance(row.flags) + 12;
    painter->setFont(titleFont);
    const QString shown = painter->fontMetrics().elidedText(row.title, Qt::ElideRight, title.width() - flagsWidth);
    painter->drawText(title, Qt::AlignLeft | Qt::AlignVCenter, shown);
    if (flagsWidth > 0) {
        const int from = title.left() + painter->fontMetrics().horizontalAdvance(shown) + 5;
        const QRectF chip(from, title.top() + 3, flagsWidth - 5, 13);
        painter->setFont(theme::text(7.5, QFont::Bold));
        painter->setPen(theme::ink);
        painter->setBrush(Qt::NoBrush);
        painter->drawRoundedRect(chip, 3, 3);
        painter->drawText(chip, Qt::AlignCenter, row.flags);
    }
    painter->setFont(theme::text(8));
    painter->setPen(row.warning ? theme::cinnabar : row.faint ? theme::faint : theme::soft);
    const QRect detail(left, box.top() + 20, box.right() - margin - left - (row.plays ? playSize : 0), 15);
    painter->drawText(detail, Qt::AlignLeft | Qt::AlignVCenter,
                      painter->fontMetrics().elidedText(row.detail, Qt::ElideRight, detail.width()));
    if (row.plays) {
        drawPlay(*painter, playBox(box), *row.plays);
    }
    if (row.bar >= 0.0) {
        const QRectF track(left, box.bottom() - 5, box.right() - margin - left, 3);
        painter->setPen(Qt::NoPen);
        painter->setBrush(theme::line);
        painter->drawRoundedRect(track, 1.5, 1.5);
        painter->setBrush(row.kind ? theme::colourOf(*row.kind) : theme::ink);
        painter->drawRoundedRect(QRectF(track.left(), track.top(), track.width() * std::clamp(row.bar, 0.0, 1.0), 3), 1.5, 1.5);
    }
    painter->restore();
}

RowList::RowList(QWidget* parent) : QListView(parent)
{
    setModel(&model_);
    setItemDelegate(new RowDelegate(this));
    setSelectionMode(QAbstractItemView::SingleSelection);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setDragDropMode(QAbstractItemView::DragOnly);
    setMouseTracking(true);
}

void RowList::setRows(std::vector<Row> rows)
{
    const QString key = currentKey();
    // Whoever has scrolled somewhere stays there while rows change places.
    const int scrolled = verticalScrollBar()->value();
    quiet_ = true;
    model_.setRows(std::move(rows));
    quiet_ = false;
    setCurrentKey(key);
    verticalScrollBar()->setValue(scrolled);
}

void RowList::setCurrentKey(const QString& key, bool reveal)
{
    quiet_ = true;
    setAutoScroll(reveal);
    const int at = key.isEmpty() ? -1 : model_.indexOfKey(key);
    const QModelIndex wanted = at < 0 ? QModelIndex() : model_.index(at);
    if (wanted.isValid() && wanted != currentIndex()) {
        selectionModel()->setCurrentIndex(wanted, QItemSelectionModel::ClearAndSelect);
    } else if (!wanted.isValid()) {
        selectionModel()->clear();
    }
    setAutoScroll(true);
    quiet_ = false;
}

QString RowList::currentKey() const
{
    const QModelIndex current = currentIndex();
    return current.isValid() && current.row() < model_.rowCount() ? model_.row(current.row()).key : QString();
}

/// Whether it was the mark of a row that was pressed: then the row is not chosen.
bool RowList::pressedMark(const QMouseEvent& event)
{
    const QModelIndex at = indexAt(event.pos());
    if (event.button() != Qt::LeftButton || !at.isValid() || !model_.row(at.row()).plays ||
        !playBox(visualRect(at)).contains(event.pos())) {
        return false;
    }
    emit playPressed(model_.row(at.row()).key, event.modifiers());
    return true;
}

void RowList::mousePressEvent(QMouseEvent* event)
{
    if (!pressedMark(*event)) {
        QListView::mousePressEvent(event);
    }
}

void RowList::mouseDoubleClickEvent(QMouseEvent* event)
{
    if (!pressedMark(*event)) {
        QListView::mouseDoubleClickEvent(event);
    }
}

void RowList::takesRows()
{
    setDragDropMode(QAbstractItemView::DragDrop);
    setDefaultDropAction(Qt::CopyAction);
    setDropIndicatorShown(false);
}

/// The row that one of its own would be dropped on; null: nothing to drop, or nowhere.
const Row* RowList::under(const QDropEvent& event) const
{
    const QModelIndex at = indexAt(event.position().toPoint());
    const bool own = event.source() == this && event.mimeData()->hasFormat(model_.dragType);
    return own && at.isValid() ? &model_.row(at.row()) : nullptr;
}

void RowList::dragEnterEvent(QDragEnterEvent* event)
{
    event->setAccepted(event->source() == this && dragDropMode() == QAbstractItemView::DragDrop);
}

void RowList::dragMoveEvent(QDragMoveEvent* event)
{
    event->setAccepted(under(*event) != nullptr);
}

void RowList::dropEvent(QDropEvent* event)
{
    if (const Row* onto = under(*event)) {
        event->acceptProposedAction();
        emit dropped(QString::fromUtf8(event->mimeData()->data(model_.dragType)), *onto);
    }
}

void RowList::currentChanged(const QModelIndex& current, const QModelIndex& previous)
{
    QListView::currentChanged(current, previous);
    if (!quiet_ && current.isValid()) {
        emit chosen(model_.row(current.row()).key);
    }
}

} // namespace stone
