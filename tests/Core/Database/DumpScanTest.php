<?php

declare(strict_types=1);

use Kaiseki\Core\Database\DumpScan;
use Kaiseki\Core\Database\DumpSection;

function dumpText(): string
{
    return implode("\n", [
        '/*M!999999\- enable the sandbox mode */ ',
        '-- MariaDB dump 10.19',
        '--',
        '-- Host: localhost    Database: fares',
        '-- ------',
        "-- Server version\t10.11.19-MariaDB",
        '',
        '-- CHANGE MASTER TO MASTER_USE_GTID=slave_pos;',
        '',
        "-- CHANGE MASTER TO MASTER_LOG_FILE='binlog.000007', MASTER_LOG_POS=4711;",
        '',
        '--',
        '-- Table structure for table `odd``name`',
        '--',
        '',
        'CREATE TABLE `odd``name` (a TEXT);',
        '--',
        '-- Dumping data for table `odd``name`',
        '--',
        '',
        'LOCK TABLES `odd``name` WRITE;',
        "INSERT INTO `odd``name` VALUES ('".str_repeat('x', 20000)."'),('--'),('-- Table structure for table `no`');",
        'UNLOCK TABLES;',
        'DELIMITER ;;',
        'CREATE TRIGGER t BEGIN',
        '--',
        '-- Table structure for table `neither`',
        '--',
        'END ;;',
        'DELIMITER ;',
        '--',
        "-- Dumping routines for database 'fares'",
        '--',
        '',
        '--',
        "-- SET GLOBAL gtid_slave_pos='0-1-42,1-1-7';",
        '-- Dump completed on 2026-11-24  3:03:44',
        '',
    ]);
}

it('holds that sections are told however the bytes come, and comments inside routines are none', function (int $piece): void {
    $bytes = '';
    $scan = new DumpScan(null, function (string $part) use (&$bytes): void {
        $bytes .= $part;
    });
    foreach (str_split(dumpText(), $piece) as $part) {
        $scan->feed($part);
    }
    $scan->finish();
    expect($bytes)->toBe(dumpText());
    $kinds = array_map(fn (DumpSection $section): string => "{$section->kind} {$section->name}", $scan->sections);
    expect($kinds)
        ->toBe(['header ', 'table odd`name', 'data odd`name', 'triggers odd`name', 'routines fares'])
        ->and([$scan->logFile, $scan->logPosition, $scan->gtid, $scan->isWhole, $scan->schema, $scan->serverVersion])
        ->toBe(['binlog.000007', 4711, '0-1-42,1-1-7', true, 'fares', '10.11.19-MariaDB']);
    foreach ($scan->sections as $i => $section) {
        expect($section->start + $section->bytes)->toBe($scan->sections[$i + 1]->start ?? strlen(dumpText()));
    }
})->with([1, 2, 3, 7, 64, 4096, 1 << 20]);
