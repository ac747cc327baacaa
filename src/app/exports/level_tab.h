// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "exports/gltf_export.h"

#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace stone
{

/// The level that is shown as one glTF file, with its geometry and its emitters: what goes into it is seen before it is
/// written. Put together on a thread of the pool.
class LevelTab : public QWidget
{
    Q_OBJECT

public:
    explicit LevelTab(Session& session, QWidget* parent = nullptr);
    /// Waits for what is being made.
    ~LevelTab() override;

    /// Writes it; says in its words what came of that.
    void writeTo(const QString& file);

private:
    void make();
    void show();
    void choose();
    QString usualFile() const;

    Session& session_;
    QLabel* what_;
    QLabel* words_;
    QPushButton* write_;
    QString file_; ///< for which it was made: sounds are named from where it lies
    QFutureWatcher<GltfLevel> making_;
};

} // namespace stone
