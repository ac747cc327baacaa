// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QStringList>
#include <QTableWidget>

#include <optional>
#include <vector>

namespace stone
{

/// A small table whose cells are typed into. It shows what it is given and says what was typed; whoever gives the rows puts
/// them right again.
class CellTable : public QTableWidget
{
    Q_OBJECT

public:
    /// A column: what stands over it, what that means, and how wide it is; the last takes the rest.
    struct Column {
        QString head;
        QString help;
        int width_px;
        bool words = false; ///< on the left; else numbers, on the right
    };

    CellTable(const char* name, const QString& label, const std::vector<Column>& columns, QWidget* parent = nullptr);

    /// Shows other texts; the current cell stays where it is.
    void showRows(const std::vector<QStringList>& rows);

    /// A number as short as it is exact to the hundredth.
    static QString shortNumber(double number);
    /// A number as it is typed, with a comma or a point; nothing when it is none.
    static std::optional<double> numberIn(const QString& text);

signals:
    /// A person typed something else, without spaces at its ends.
    void typed(int row, int column, const QString& text);

private:
    std::vector<bool> words_;
};

} // namespace stone
