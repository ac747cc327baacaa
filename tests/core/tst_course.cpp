// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/course.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace tst_course
{

using namespace stone;

namespace
{

constexpr double rate = 48'000.0;

std::shared_ptr<const Sound> soundOf(Make make, std::size_t files, const Sequence& sequence = {})
{
    Sound sound;
    sound.id = {"s"};
    sound.make = make;
    sound.sequence = sequence;
    for (std::size_t i = 0; i < files; ++i) {
        sound.files.push_back({.file = "f" + std::to_string(i)});
    }
    return std::make_shared<const Sound>(sound);
}

/// All pieces that begin in a stretch, in order of their beginning.
std::vector<Piece> piecesOf(Course& course, double to)
{
    std::vector<Piece> pieces;
    course.during(0.0, to, pieces);
    std::map<std::uint64_t, Piece> all;
    for (double t = 0.0; t < to; t += 256.0) {
        course.during(t, t + 256.0, pieces);
        for (const Piece& piece : pieces) {
            all[piece.serial] = piece;
        }
    }
    std::vector<Piece> sorted;
    for (const auto& [serial, piece] : all) {
        sorted.push_back(piece);
    }
    std::stable_sort(sorted.begin(), sorted.end(), [](const Piece& a, const Piece& b) { return a.begins < b.begins; });
    return sorted;
}

} // namespace

class TestCourse : public QObject
{
    Q_OBJECT

private slots:
    /// Slices that pause: silence as long as was asked for between two, as often as was asked for.
    void slicesCanPause()
    {
        Sequence sequence;
        sequence.sliceLeast_s = 1.0;
        sequence.sliceMost_s = 2.0;
        sequence.atOnce = 1;
        sequence.gapLeast_s = 0.5;
        sequence.gapMost_s = 3.0;
        sequence.gapChance = 0.6;
        Course course(soundOf(Make::slices, 2, sequence), {60.0 * rate, 60.0 * rate}, rate, 3, "id");
        const std::vector<Piece> pieces = piecesOf(course, 4'000.0 * rate);
        int paused = 0;
        for (std::size_t i = 1; i < pieces.size(); ++i) {
            const double gap_s = (pieces[i].begins - pieces[i - 1].ends) / rate;
            if (gap_s > 0.0) {
                QVERIFY(gap_s >= 0.499 && gap_s <= 3.001);
                ++paused;
            }
        }
        const double share = paused / static_cast<double>(pieces.size() - 1);
        QVERIFY2(pieces.size() > 900 && std::abs(share - 0.6) < 0.05, qPrintable(QString::number(share)));
        // Without a gap they go on overlapping.
        sequence.gapMost_s = sequence.gapLeast_s = 0.0;
        Course overlapping(soundOf(Make::slices, 2, sequence), {60.0 * rate, 60.0 * rate}, rate, 3, "id");
        const std::vector<Piece> all = piecesOf(overlapping, 100.0 * rate);
        for (std::size_t i = 1; i < all.size(); ++i) {
            QVERIFY(all[i].begins <= all[i - 1].ends);
        }
    }

    void filesComeInTheOrderAskedFor()
    {
        constexpr std::size_t count = 5;
        std::map<std::size_t, int> times;
        Picker random(7, "id", "file", Order::random, count);
        std::size_t before = count;
        for (int i = 0; i < 5000; ++i) {
            const std::size_t file = random.next();
            QVERIFY(file < count && file != before);
            before = file;
            ++times[file];
        }
        for (const auto& [file, n] : times) {
            QVERIFY2(std::abs(n - 1000) < 120, qPrintable(QString("%1: %2").arg(file).arg(n)));
        }
        Picker shuffled(7, "id", "file", Order::shuffled, count);
        before = count;
        std::set<std::vector<std::size_t>> orders;
        for (int round = 0; round < 200; ++round) {
            std::vector<std::size_t> order;
            for (std::size_t i = 0; i < count; ++i) {
                order.push_back(shuffled.next());
                QVERIFY(order.back() != before);
                before = order.back();
            }
            QCOMPARE(std::set<std::size_t>(order.begin(), order.end()).size(), count);
            orders.insert(order);
        }
        QVERIFY(orders.size() > 60); // of 120
        Picker inTurn(7, "id", "file", Order::inTurn, count);
        for (std::size_t i = 0; i < 12; ++i) {
            QCOMPARE(inTurn.next(), i % count);
        }
        // The same again for the same seed, another way for another.
        const auto first = [](std::uint64_t seed) {
            Picker picker(seed, "id", "file", Order::random, 8);
            std::vector<std::size_t> files(20);
            std::generate(files.begin(), files.end(), [&] { return picker.next(); });
            return files;
        };
        QVERIFY(first(1) == first(1) && first(1) != first(2));
    }

    void aRunKeepsItsGaps()
    {
        Sequence sequence;
        sequence.gapLeast_s = 0.5;
        sequence.gapMost_s = 2.0;
        sequence.gapChance = 0.7;
        Course course(soundOf(Make::run, 3, sequence), {48'000, 24'000, 96'000}, rate, 1, "a");
        QVERIFY(std::isinf(course.frames()));
        const auto pieces = piecesOf(course, 1000 * rate);
        QVERIFY(pieces.size() > 300);
        int gaps = 0;
        double sum = 0.0;
        for (std::size_t i = 1; i < pieces.size(); ++i) {
            const double gap = (pieces[i].begins - pieces[i - 1].ends) / rate;
            QVERIFY(gap == 0.0 || (gap >= 0.5 && gap <= 2.0));
            QVERIFY(pieces[i].file != pieces[i - 1].file);
            QCOMPARE(pieces[i].begins, std::floor(pieces[i].begins));
            gaps += gap > 0.0 ? 1 : 0;
            sum += gap;
        }
        const double taken = static_cast<double>(gaps) / static_cast<double>(pieces.size() - 1);
        QVERIFY2(std::abs(taken - 0.7) < 0.06, qPrintable(QString::number(taken)));
        QVERIFY(std::abs(sum / gaps - 1.25) < 0.08);
    }

    void aRunCrossFadesWhereItTakesNoGap()
    {
        Sequence sequence;
        sequence.crossFade_s = 0.25;
        sequence.order = Order::inTurn;
        Course course(soundOf(Make::run, 2, sequence), {48'000, 6'000}, rate, 1, "a");
        const auto pieces = piecesOf(course, 60 * rate);
        for (std::size_t i = 1; i < pieces.size(); ++i) {
            const double overlap = pieces[i - 1].ends - pieces[i].begins;
            // A short one gives half of itself at most.
            QCOMPARE(overlap, pieces[i - 1].file == 0 ? 12'000.0 : 3'000.0);
            QCOMPARE(pieces[i - 1].fadeOut, overlap);
            QCOMPARE(pieces[i].fadeIn, overlap);
        }
    }

    void anyMomentCanBeAskedForAgain()
    {
        Sequence sequence;
        sequence.gapLeast_s = 0.1;
        sequence.gapMost_s = 3.0;
        for (const Make make : {Make::run, Make::slices, Make::mixed}) {
            auto sound = std::make_shared<Sound>(*soundOf(make, 4, sequence));
            sound->files[2].accent = sound->files[3].accent = true;
            sound->pitchSpread_st = 3.0;
            const std::vector<double> lengths{48'000, 24'000, 96'000, 7'000};
            Course onward(sound, lengths, rate, 3, "a");
            Course jumping(sound, lengths, rate, 3, "a");
            std::vector<Piece> a;
            std::vector<Piece> b;
            for (int i = 0; i < 300; ++i) {
                const double t = 256.0 * i * 7;
                onward.during(t, t + 256.0, a);
                Course fresh(sound, lengths, rate, 3, "a");
                fresh.during(t, t + 256.0, b);
                QCOMPARE(a.size(), b.size());
                jumping.during(256.0 * ((i * 7919) % 2100), 256.0 * ((i * 7919) % 2100) + 256.0, b);
                jumping.during(t, t + 256.0, b);
                QCOMPARE(a.size(), b.size());
                for (std::size_t k = 0; k < a.size(); ++k) {
                    QVERIFY(a[k].serial == b[k].serial && a[k].begins == b[k].begins && a[k].rate == b[k].rate &&
                            a[k].from == b[k].from);
                }
            }
        }
    }

    void slicesStayInTheirFile()
    {
        Sequence sequence;
        sequence.sliceLeast_s = 0.5;
        sequence.sliceMost_s = 1.5;
        sequence.crossFade_s = 0.1;
        sequence.atOnce = 3;
        Course course(soundOf(Make::slices, 1, sequence), {20 * rate}, rate, 5, "a");
        std::set<double> places;
        std::map<std::uint64_t, Piece> all;
        std::vector<Piece> pieces;
        for (double t = 5.0 * rate; t < 200.0 * rate; t += 4800.0) {
            course.during(t, t + 1.0, pieces);
            QVERIFY(pieces.size() >= 3 && pieces.size() <= 6);
            for (const Piece& piece : pieces) {
                const double seconds = (piece.ends - piece.begins) / rate;
                QVERIFY(seconds > 0.499 && seconds < 1.501);
                QVERIFY(piece.from >= 0.0 && piece.from + (piece.ends - piece.begins) <= 20 * rate);
                QVERIFY(piece.fadeIn >= 4800.0 && piece.fadeOut >= 4800.0);
                places.insert(std::floor(piece.from / rate));
            }
        }
        QVERIFY(places.size() >= 18); // all over the file
    }

    void layersWanderAndSayWhenTheyMeet()
    {
        auto sound = std::make_shared<Sound>(*soundOf(Make::layers, 2));
        for (const bool irregular : {false, true}) {
            sound->files[0].levelDrift = {6.0, 7.0, irregular};
            sound->files[0].pitchDrift = {2.0, 11.0, irregular};
            Course course(sound, {9 * rate, 10 * rate}, rate, 5, "a");
            std::vector<Piece> pieces;
            course.during(0.0, 256.0, pieces);
            QCOMPARE(pieces.size(), std::size_t{2});
            const Piece& piece = pieces[0];
            QVERIFY(piece.loops && std::isinf(piece.ends) && course.placeAt(piece, 0.0) == 0.0);
            double lowest = 1e9;
            double highest = -1e9;
            double slowest = 1e9;
            double fastest = -1e9;
            for (double t = 0.0; t < 300.0 * rate; t += 256.0) {
                const double level = course.levelAt(piece, t);
                const double speed_st = 12.0 * std::log2((course.placeAt(piece, t + 256.0) - course.placeAt(piece, t)) / 256.0);
                lowest = std::min(lowest, level);
                highest = std::max(highest, level);
                slowest = std::min(slowest, speed_st);
                fastest = std::max(fastest, speed_st);
            }
            QVERIFY(lowest >= -6.0 && highest <= 6.0 && highest - lowest > (irregular ? 6.0 : 11.9));
            QVERIFY2(slowest >= -2.3 && fastest <= 2.01 && fastest - slowest > (irregular ? 1.0 : 3.8),
                     qPrintable(QString("%1 %2").arg(slowest).arg(fastest)));
        }
        const std::vector<double> lengths{9 * rate, 10 * rate};
        QCOMPARE(repeatsAfter_s(lengths, rate).value(), 90.0);
        const std::vector<double> unlike{9 * rate + 1, 10 * rate - 1, 11 * rate};
        QVERIFY(!repeatsAfter_s(unlike, rate));
    }

    void accentsComeNowAndThen()
    {
        Sequence sequence;
        sequence.gapLeast_s = 2.0;
        sequence.gapMost_s = 6.0;
        auto sound = std::make_shared<Sound>(*soundOf(Make::mixed, 3, sequence));
        sound->files[1].accent = sound->files[2].accent = true;
        sound->levelSpread_db = 3.0;
        Course course(sound, {5 * rate, rate, rate / 2}, rate, 5, "a");
        const auto pieces = piecesOf(course, 600 * rate);
        QVERIFY(pieces.front().loops && pieces.front().file == 0);
        double ended = 0.0;
        std::set<double> levels;
        for (const Piece& piece : pieces) {
            if (!piece.loops) {
                const double gap = (piece.begins - ended) / rate;
                QVERIFY(gap >= 2.0 && gap <= 6.0 && std::abs(piece.level_db) <= 3.0);
                ended = piece.ends;
                levels.insert(piece.level_db);
            }
        }
        QVERIFY(levels.size() > 90);
    }

    void whatPlaysOnceEnds()
    {
        Sequence sequence;
        sequence.gapLeast_s = sequence.gapMost_s = 0.5;
        for (const auto& [make, seconds] : {std::pair(Make::run, 1.0 + 0.5 + 0.5), {Make::layers, 1.0}, {Make::one, 0.0}}) {
            auto sound = std::make_shared<Sound>(*soundOf(make, 2, sequence));
            sound->loop = false;
            sound->delay_s = 0.25;
            Course course(sound, {48'000, 24'000}, rate, 5, "a");
            const double all = course.frames() / rate;
            QVERIFY2(make == Make::one ? all == 1.25 || all == 0.75 : all == 0.25 + seconds, qPrintable(QString::number(all)));
            std::vector<Piece> pieces;
            course.during(course.frames(), 1e9, pieces);
            QVERIFY(pieces.empty());
        }
        // What cannot be played is left out; with nothing left there is nothing.
        Course none(soundOf(Make::run, 2), {0.0, 0.0}, rate, 5, "a");
        QCOMPARE(none.frames(), 0.0);
    }

    void lockedCopiesAgree()
    {
        Sound sound = *soundOf(Make::run, 4);
        Emitter a;
        Emitter b;
        a.id = {"a"};
        b.id = {"b"};
        QVERIFY(courseIdOf(sound, a) == courseIdOf(sound, b));
        sound.copiesApart = true;
        QVERIFY(courseIdOf(sound, a) != courseIdOf(sound, b));
    }
};

} // namespace tst_course

STONE_TEST(tst_course, TestCourse)
#include "tst_course.moc"
