// SPDX-License-Identifier: MIT
#pragma once
// The made-up words that the boatyard is made from.

#include <array>
#include <string_view>

namespace jollyrow::demo {

inline constexpr std::array<std::string_view, 28> kFirstNames = {
    "Ines",   "Tomas", "Åse",    "Zoë",    "Mirek", "Orla",  "Íñigo",  "Bronwen", "Kaito", "Lotte",
    "Ruairí", "Selma", "Anders", "Paloma", "Håkon", "Wilma", "Jules",  "Edda",    "Nuno",  "Maëlle",
    "Piotr",  "Greta", "Søren",  "Tilda",  "Ewan",  "Noor",  "Ondřej", "Fenna"};
inline constexpr std::array<std::string_view, 26> kLastNames = {
    "Thornquay", "Lindmoor",    "Achterfeld", "Ó Branagh", "Saltmarsh", "Vestergren", "Pellworth",
    "Dúnmore",   "Hollis-Wake", "Brandvik",   "Marrowell", "Castelôn",  "Øyhavn",     "Stillwater",
    "Querido",   "Fennimore",   "Łąkowski",   "Greyholm",  "Tidewell",  "Norrbåt",    "Penhallick",
    "Dragomar",  "Eastermuir",  "Kvistholm",  "Rowanby",   "Müllerhorn"};
inline constexpr std::array<std::string_view, 12> kTowns = {
    "Kelpie Quay", "Sandness Point", "Gull Rock",       "Port Averil",  "Little Strand", "Ferrymouth",
    "Osterhaven",  "Cairn Bay",      "St Bride's Hard", "Mallow Creek", "Tarnholm",      "Whiting Cove"};
inline constexpr std::array<std::string_view, 30> kVesselFirst = {
    "Brisk",  "Grey",  "Little", "Second", "Salt",  "Fair",   "Plain",   "Northern", "Quiet",  "Merry",
    "Old",    "Amber", "Silver", "Lucky",  "Wild",  "Steady", "Blue",    "Patient",  "Early",  "Far",
    "Golden", "Idle",  "Jolly",  "Lone",   "Misty", "Noble",  "Otter's", "Proud",    "Russet", "True"};
inline constexpr std::array<std::string_view, 30> kVesselLast = {
    "Molly",   "Wagtail",       "Auk",     "Wind",      "Ledger",    "Copy",    "Jane",     "Petrel",
    "Whistle", "Wren",          "Due",     "Sandpiper", "Marram",    "Lapwing", "Dabchick", "Corncrake",
    "Thistle", "Oystercatcher", "Plover",  "Tern",      "Kittiwake", "Harbour", "Morrow",   "Pebble",
    "Dunlin",  "Bell",          "Lantern", "Tide",      "Årsund",    "Étoile"};
inline constexpr std::array<std::string_view, 7> kKinds = {"Cutter",  "Ketch", "Gaff sloop", "Motor cruiser",
                                                           "Trawler", "Yawl",  "Launch"};
inline constexpr std::array<std::string_view, 24> kWork = {
    "Antifoul hull",    "Renew shaft seal",     "Rewire mast",       "Service winches",  "Fit stern gland",
    "Patch coachroof",  "Strip topsides",       "Rehang rudder",     "Rebed hatches",    "Fit fuel filter",
    "Fit bilge pump",   "Line propeller shaft", "Step mast",         "Check rigging",    "Service engine",
    "Replace anodes",   "Varnish brightwork",   "Survey keel bolts", "Renew gas locker", "Fit windlass",
    "Caulk deck seams", "Balance propeller",    "Pull old loom",     "Winterise"};
inline constexpr std::array<std::string_view, 14> kNotes = {
    "Owner asks to be rung before any work above the quote.",
    "Old loom runs behind the galley lining; take photographs before pulling.",
    "Key with the harbour office.",
    "Mind the cat.",
    "Wants the same shade as last time (tin kept in shed 2).",
    "Bilge to be dry before lifting.",
    "Pay on collection.",
    "Crack found at the third frame; shown to the owner.",
    "Do not power-wash the teak.",
    "Ask Åse for the drawing.",
    "Shore power trips on this berth: use the long lead.",
    "Tide allows a lift only in the hour after high water.",
    "Second coat after two dry days.",
    "Insurer wants pictures before and after."};
inline constexpr std::array<std::string_view, 9> kParts = {
    "Shaft seal kit",   "Marine ply 12 mm",    "Tinned cable 2.5 mm²", "Impeller",         "Anode, zinc",
    "Antifouling, 5 l", "Fuel filter element", "Bronze through-hull",  "Sealant cartridge"};
inline constexpr std::array<std::string_view, 5> kStatuses = {"Quoted", "Booked", "In hand", "Waiting for parts",
                                                              "Done"};
inline constexpr std::array<std::string_view, 6> kDocks = {"A dock",        "B dock", "C dock",
                                                           "North pontoon", "Shed 2", "Hard standing"};

}  // namespace jollyrow::demo
