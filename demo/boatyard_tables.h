// SPDX-License-Identifier: MIT
#pragma once
// The tables of the boatyard, as SQLite takes them; demo/server_boatyard.cpp says what a server calls otherwise.

#include <array>

namespace jollyrow::demo {

inline constexpr const char* kTables = R"sql(
CREATE TABLE owners (
  id INTEGER PRIMARY KEY,
  name VARCHAR(60) NOT NULL,
  town VARCHAR(40),
  phone VARCHAR(24),
  since DATE NOT NULL
);
CREATE TABLE vessels (
  id INTEGER PRIMARY KEY,
  name VARCHAR(40) NOT NULL,
  owner INTEGER NOT NULL REFERENCES owners(id),
  kind VARCHAR(20) NOT NULL CHECK (kind IN ('Cutter', 'Ketch', 'Gaff sloop', 'Motor cruiser', 'Trawler', 'Yawl', 'Launch')),
  length DECIMAL(5,2) NOT NULL CHECK (length > 0),
  insured_until DATE,
  hull_no VARCHAR(16) UNIQUE,
  picture BLOB,
  notes TEXT
);
CREATE TABLE berths (
  id INTEGER PRIMARY KEY,
  code VARCHAR(8) NOT NULL UNIQUE,
  dock VARCHAR(20) NOT NULL,
  depth DECIMAL(4,2) NOT NULL,
  power DECIMAL(5,2) NOT NULL,
  power_week NUMBER LIST
);
CREATE TABLE meter_readings (
  berth INTEGER NOT NULL REFERENCES berths(id),
  taken_at TIMESTAMP NOT NULL,
  kwh DECIMAL(10,3) NOT NULL,
  PRIMARY KEY (berth, taken_at)
) WITHOUT ROWID;
CREATE TABLE jobs (
  number INTEGER PRIMARY KEY,
  vessel INTEGER NOT NULL REFERENCES vessels(id),
  berth INTEGER REFERENCES berths(id),
  work VARCHAR(80) NOT NULL,
  status VARCHAR(20) NOT NULL CHECK (status IN ('Quoted', 'Booked', 'In hand', 'Waiting for parts', 'Done')),
  booked_on DATE NOT NULL,
  due_on DATE,
  hours DECIMAL(6,2) CHECK (hours BETWEEN 0.25 AND 400),
  labour DECIMAL(12,2) NOT NULL DEFAULT 0,
  parts DECIMAL(12,2) NOT NULL DEFAULT 0,
  paid BOOLEAN NOT NULL DEFAULT 0 CHECK (paid IN (0, 1)),
  notes TEXT,
  CHECK (due_on IS NULL OR due_on >= booked_on)
);
CREATE TABLE job_lines (
  id INTEGER PRIMARY KEY,
  job INTEGER NOT NULL REFERENCES jobs(number),
  position INTEGER NOT NULL,
  kind VARCHAR(8) NOT NULL CHECK (kind IN ('labour', 'part')),
  what VARCHAR(60) NOT NULL,
  day DATE,
  quantity DECIMAL(8,2) NOT NULL,
  price DECIMAL(10,2) NOT NULL,
  UNIQUE (job, position)
);
)sql";

/// In the order in which each finds what it points to.
inline constexpr std::array<const char*, 6> kTableNames = {"owners",         "vessels", "berths",
                                                           "meter_readings", "jobs",    "job_lines"};

}  // namespace jollyrow::demo
