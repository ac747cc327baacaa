#pragma once

#include "app/lists/row_list.h"
#include "app/session/session.h"

#include <QLabel>
#include <QLineEdit>
#include <QTimer>

namespace stone
{

/// The project's sounds by folder, to be searched, chosen and dragged onto the Plan, with what they take in all.
class SoundLibrary : public QWidget
{
    Q_OBJECT

public:
    explicit SoundLibrary(Session& session, QWidget* parent = nullptr);

    SoundId current() const { return {list_->currentKey().toStdString()}; }

signals:
    void addWanted();
    void chosen(const SoundId& id);
    /// Enter or a double click.
    void placeWanted(const SoundId& id);

private:
    void refresh();
    Row rowOf(const Sound& sound) const;

    Session& session_;
    QLineEdit* filter_;
    RowList* list_;
    QLabel* cost_;
    QTimer refreshSoon_;
};

} // namespace stone
