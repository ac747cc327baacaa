// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QFrame>
#include <QVBoxLayout>

namespace stone
{

/// What one sees first, instead of an empty window: what can be opened or begun. It goes as soon as there is anything in the
/// project, or when it is closed.
class FirstSheet : public QFrame
{
    Q_OBJECT

public:
    explicit FirstSheet(Session& session, QWidget* parent);

    /// Shows it over a sheet of this size where nothing was begun yet. `recent`: projects opened lately.
    void offer(const QStringList& recent);
    /// In the middle of what it lies on.
    void place();

signals:
    void demoWanted();
    void levelWanted();
    void openWanted();
    void recentWanted(const QString& path);

private:
    void refresh();

    Session& session_;
    QVBoxLayout* recent_;
    bool closed_ = true; ///< until it is offered
};

} // namespace stone
