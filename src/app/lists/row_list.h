// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

#include <QAbstractListModel>
#include <QListView>
#include <QStyledItemDelegate>

#include <optional>

namespace stone
{

/// One line of a list of sounding things.
struct Row {
    QString key; ///< stays with the thing while its text changes; empty for headings
    QString title;
    QString detail;                  ///< of a heading: what it stands for, not drawn
    QString value;                   ///< at the right, in the number face
    std::optional<EmitterKind> kind; ///< draws its sign
    double bar = -1.0;               ///< 0 to 1; below 0: no bar
    /// In few letters whether it is muted, solo or hushed: drawn after the title, in this order.
    QString flags;
    std::optional<bool> plays; ///< has a mark at the right that plays it, or ends that; none: no mark
    bool heading = false;
    bool faint = false;
    bool warning = false;

    bool operator==(const Row&) const = default;
};

/// Rows as a model. Keeps what is selected by key when the order changes.
class RowModel : public QAbstractListModel
{
    Q_OBJECT

public:
    using QAbstractListModel::QAbstractListModel;

    void setRows(std::vector<Row> rows);
    const Row& row(int index) const { return rows_[static_cast<std::size_t>(index)]; }
    int indexOfKey(const QString& key) const;

    int rowCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    QStringList mimeTypes() const override;
    QMimeData* mimeData(const QModelIndexList& indexes) const override;

    /// What dragged rows are called in a drop: "application/x-stone-echo-sound". Empty: rows cannot be dragged.
    QString dragType;

private:
    std::vector<Row> rows_;
};

class RowDelegate : public QStyledItemDelegate
{
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
};

/// A list of rows in which one can be chosen.
class RowList : public QListView
{
    Q_OBJECT

public:
    explicit RowList(QWidget* parent = nullptr);

    RowModel& rows() { return model_; }
    /// Shows these rows; what was current stays so by its key.
    void setRows(std::vector<Row> rows);
    /// `reveal`: scrolls there; otherwise the list stays as it is scrolled.
    void setCurrentKey(const QString& key, bool reveal = false);
    QString currentKey() const;
    /// Lets its own rows be dropped on others.
    void takesRows();

signals:
    /// By mouse or keyboard; not by setCurrentKey().
    void chosen(const QString& key);
    /// The mark at the right of a row was pressed, with what was held.
    void playPressed(const QString& key, Qt::KeyboardModifiers held);
    /// A row was dragged onto another one, or onto a heading. Only where takesRows() was asked for.
    void dropped(const QString& key, const stone::Row& onto);

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

private:
    const Row* under(const QDropEvent& event) const;
    bool pressedMark(const QMouseEvent& event);

    RowModel model_;
    bool quiet_ = false;
};

} // namespace stone
