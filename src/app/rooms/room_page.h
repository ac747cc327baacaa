// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/room_survey.h"
#include "app/forms/shape_fields.h"
#include "app/forms/thing_form.h"
#include "app/rooms/decay_graph.h"
#include "app/session/playback.h"

#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// The selected room on the bench: where it is, how it answers, what the level suggests, and what of it is heard.
class RoomPage : public ThingForm<Room>
{
    Q_OBJECT

public:
    RoomPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    bool isOfSelection() const override { return session_.selected<Room>() != nullptr; }
    /// Only what is heard of it just now.
    void follow() override;

protected:
    const Room* thing() const override { return session_.selected<Room>(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Room&)>& change) override;

private:
    QWidget* makePlace();
    QWidget* makeReverb();
    void chooseResponse();
    void survey();
    void tellSurvey();

    Playback& playback_;
    ShapeFields* shape_;
    QComboBox* points_;
    DecayGraph* graph_;
    QPushButton* file_;
    QLabel* surveyed_;
    QPushButton* take_;
    QLabel* heard_;
    /// What a survey was made of: another room, level or material makes another.
    struct Asked {
        std::shared_ptr<const Room> room;
        std::shared_ptr<const Ground> ground;
        std::vector<SurfaceUse> surfaces;
        bool operator==(const Asked&) const = default;
    };
    Asked asked_;
    std::optional<RoomSurvey> survey_;
    QFutureWatcher<std::optional<RoomSurvey>> watcher_;
};

} // namespace stone
