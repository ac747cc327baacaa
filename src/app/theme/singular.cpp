// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/singular.h"

#include <algorithm>
#include <iterator>
#include <string_view>

namespace stone::theme
{

namespace
{

struct Text {
    std::string_view ofMany;
    const char* ofOne;
};

constexpr Text texts[] = {
    {" · %1 of %n checkpoints", " · %1 of %n checkpoint"},
    {" · %n falls", " · %n fall"},
    {"%n are planted.", "%n is planted."},
    {"%n are planted; %1.", "%n is planted; %1."},
    {"%n differences", "%n difference"},
    {"%n emitters that are selected", "%n emitter that is selected"},
    {"%n files, now %1. Files of these names there are replaced.", "%n file, now %1. A file of its name there is replaced."},
    {"%n files. Files of these names there are replaced.", "%n file. A file of its name there is replaced."},
    {"%n more ways, the loudest of them %1.", "%n more way: %1."},
    {"%n of %1 are %2 dB at their posts now.", "%n of %1 is %2 dB at its post now."},
    {"%n points", "%n point"},
    {"%n sounds came without their files, which lie in %1.", "%n sound came without its file, which lies in %1."},
    {"%n storeys found in it", "%n storey found in it"},
    {"%n storeys", "%n storey"},
    {"%n things happen on it", "%n thing happens on it"},
    {"%n things", "%n thing"},
    {"%n voices", "%n voice"},
    {"%1 in %n files. Files of these names there are replaced.", "%1 in %n file. A file of its name there is replaced."},
    {"<b>%1 by %2, %3 high</b><br>%4 triangles, %n materials, %5", "<b>%1 by %2, %3 high</b><br>%4 triangles, %n material, %5"},
    {"<b>%1</b> (%2) is met %n times, %3 each, up to %4 thick.", "<b>%1</b> (%2) is met once, %3, %4 thick."},
    {"<b>%1</b>: %2, %n emitters are heard in it.", "<b>%1</b>: %2, %n emitter is heard in it."},
    {"<b>%1</b>: %2, %n emitters that sound in any player of the draft.",
     "<b>%1</b>: %2, %n emitter that sounds in any player of the draft."},
    {"Bring in %n sounds", "Bring in %n sound"},
    {"Take over the %n emitters that come with it", "Take over the %n emitter that comes with it"},
    {"The %1 %2 is used by %n others. They stay, without it; findings will name them.",
     "The %1 %2 is used by %n other. It stays, without it; findings will name it."},
    {"Walls or a missing floor stand in the way on %n legs of the walk: there it goes straight through. Drag its points round "
     "them.",
     "Walls or a missing floor stand in the way on %n leg of the walk: there it goes straight through. Drag its points round "
     "them."},
    {"What was measured of sounds is forgotten (%n files, %1). Each is measured again when it is read next.",
     "What was measured of sounds is forgotten (%n file, %1). It is measured again when it is read next."},
};

} // namespace

QString Singular::translate(const char*, const char* text, const char*, int number) const
{
    if (number != 1) {
        return {};
    }
    const auto* const found =
        std::find_if(std::begin(texts), std::end(texts), [&](const Text& one) { return one.ofMany == text; });
    return found != std::end(texts) ? QString::fromUtf8(found->ofOne) : QString();
}

} // namespace stone::theme
