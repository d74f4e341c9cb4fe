<?php

declare(strict_types=1);

use Kaiseki\Core\Database\KnownStatements;
use Kaiseki\Core\Database\UnknownStatement;
use Random\Engine\Mt19937;
use Random\Randomizer;

// The forms of mariadb-dump 10.11 were seen in its output; tests/Feature/Kinds/Databases/DatabaseDoorsTest loads what it writes.

it('knows what mariadb-dump writes around rows', function (string $statement): void {
    expect((new KnownStatements('into'))->admits($statement))->toBeTrue();
})->with([
    "INSERT INTO `t` VALUES\n(1,'a\\'b','it''s',NULL,-1.5e-10,0x41,_binary 'x\\\\',x'00ff',b'01'),\n(2,'','',2,3,4,5,6,7);\n",
    "REPLACE INTO `a``b` (`id`, `n`) VALUES (1,'--;\n#/*');\n", "INSERT  IGNORE INTO `t` VALUES (1);\n",
    "/*!40000 ALTER TABLE `t` DISABLE KEYS */;\n", "LOCK TABLES `t` WRITE;\n", "UNLOCK TABLES;\n",
    "/*!40101 SET @OLD_CHARACTER_SET_CLIENT=@@CHARACTER_SET_CLIENT */;\n", "set autocommit=0;\n", "commit;\n",
    "/*!40014 SET @OLD_UNIQUE_CHECKS=@@UNIQUE_CHECKS, UNIQUE_CHECKS=0 */;\n",
    "/*!40101 SET @OLD_SQL_MODE=@@SQL_MODE, SQL_MODE='NO_AUTO_VALUE_ON_ZERO' */;\n",
    "/*!40101 SET character_set_client = utf8mb4 */;\n",
    "/*M!999999\\- enable the sandbox mode */ \n-- MariaDB dump\n--\n/*!40101 SET NAMES utf8mb4 */;\n", "USE `into`;\n",
    "\n-- Dump completed\n", "/*!40103 SET TIME_ZONE=@OLD_TIME_ZONE */;\n",
]);

it('refuses anything else', function (string $statement): void {
    expect(fn () => (new KnownStatements('into'))->admits($statement))->toThrow(UnknownStatement::class);
})->with([
    "CREATE USER x;\n", "INSERT INTO `t` VALUES (1); DROP TABLE `t`;\n", "INSERT INTO `t` VALUES (LOAD_FILE('/x'));\n",
    "INSERT INTO `t` SELECT 1;\n", "INSERT INTO `o`.`t` VALUES (1);\n", "USE `mysql`;\n", "USE `into`, `mysql`;\n",
    "INSERT INTO `t` VALUES (1, -- '\n);CREATE USER x; -- ');\n", "INSERT INTO `t` VALUES (1 /*!,(SELECT 1)*/);\n",
    "INSERT INTO `t` VALUES (@@version);\n", "SET GLOBAL general_log=1;\n", "SET SQL_MODE='NO_BACKSLASH_ESCAPES';\n",
    "SET @OLD_SQL_MODE='NO_BACKSLASH_ESCAPES';\n", "SET SQL_MODE='ANSI_QUOTES';\n", "SET NAMES gbk;\n",
    "SET character_set_client=sjis;\n", "\\! touch x\n", "/*!40000 ALTER TABLE `t` DISABLE KEYS */; DROP TABLE `t`;\n",
    "INSERT INTO `t` VALUES (1) ON DUPLICATE KEY UPDATE a=1;\n",
    "INSERT INTO `t` VALUES ('a);\n", 'INSERT INTO `t` VALUES (1)', "DELIMITER ;;\n",
]);

it('leaves out lines for a replica', function (): void {
    $known = new KnownStatements('into');
    expect($known->admits("CHANGE MASTER TO MASTER_LOG_FILE='binlog.000001', MASTER_LOG_POS=330;\n"))->toBeFalse()
        ->and($known->admits("SET GLOBAL gtid_slave_pos='0-1-2,1-2-3';\n"))->toBeFalse();
});

it('holds that rows of any length are read through, and what stands among them is found wherever it is', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $value = fn (): string => match ($random->getInt(0, 7)) {
        0 => (string) $random->getInt(-1000, 1000000), 1 => 'NULL',
        2 => '0x'.bin2hex($random->getBytes($random->getInt(1, 40))), 3 => '1.5e+10', 4 => "''",
        5 => "'".addcslashes(str_repeat($random->getBytes($random->getInt(1, 30)), $random->getInt(1, 20)), "'\\\0\n")."'",
        6 => '0',
        default => "'".str_repeat("x\\n''", $random->getInt(1, $random->getInt(1, 5) === 1 ? 300000 : 10))."'",
    };
    $rows = [];
    for ($bytes = 0; $bytes < 3 << 20; $bytes += strlen(end($rows))) {
        $rows[] = '('.implode(',', array_map($value, range(1, 6))).')';
    }
    $known = new KnownStatements('into');
    expect($known->admits("INSERT INTO `t` VALUES\n".implode(",\n", $rows).";\n"))->toBeTrue();
    $rows[$random->getInt(0, count($rows) - 1)] = "(1,2,3,4,5,LOAD_FILE('/etc/passwd'))";
    expect(fn () => $known->admits("INSERT INTO `t` VALUES\n".implode(",\n", $rows).";\n"))->toThrow(UnknownStatement::class);
})->with(range(1, 6));
