<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use PDO;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** The ferry line's fares: an ordinary MariaDB server that lives through six weeks, with the clock of each of its days. */
final class SorrelSoundFares
{
    private const TICKETS = 188_000;

    private const ROUTES = [
        'Boathouse to Pier Nine',
        'Pier Nine to Boathouse',
        'Boathouse to Tern Holm',
        'Tern Holm to Boathouse',
        'Round the Sound',
        'Night freight',
    ];

    private const PEOPLE = [
        'Astrid',
        'Birk',
        'Cille',
        'Dagny',
        'Eskil',
        'Frøya',
        'Gro',
        'Håkon',
        'Iver',
        'Jorunn',
        'Kåre',
        'Liv',
        'Mads',
        'Nora',
    ];

    private readonly Randomizer $random;

    public function __construct(private readonly PDO $server, int $seed = 20261)
    {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    public function begin(DateTimeImmutable $first): void
    {
        $this->at($first->modify('-1 hour'));
        foreach (
            [
                'CREATE DATABASE fares CHARACTER SET utf8mb4',
                'USE fares',
                'CREATE TABLE routes (id TINYINT UNSIGNED PRIMARY KEY, name VARCHAR(60) NOT NULL UNIQUE)',
                'CREATE TABLE fares (id SMALLINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, route TINYINT UNSIGNED NOT NULL, passenger '.
                'ENUM("adult", "child", "bicycle", "car", "lorry") NOT NULL, amount DECIMAL(7,2) NOT NULL, valid_from DATE NOT NULL, '.
                'UNIQUE (route, passenger), FOREIGN KEY (route) REFERENCES routes (id))',
                'CREATE TABLE sailings (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, route TINYINT UNSIGNED NOT NULL, leaves DATETIME NOT '.
                'NULL, vessel VARCHAR(20) NOT NULL, sold INT NOT NULL DEFAULT 0, closed TINYINT(1) NOT NULL DEFAULT 0, UNIQUE '.
                '(route, leaves), FOREIGN KEY (route) REFERENCES routes (id))',
                'CREATE TABLE tickets (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, sailing INT UNSIGNED NOT NULL, passenger '.
                'ENUM("adult", "child", "bicycle", "car", "lorry") NOT NULL, holder VARCHAR(40), price DECIMAL(7,2) NOT NULL, state '.
                'ENUM("sold", "used", "refunded") NOT NULL DEFAULT "sold", sold_at DATETIME NOT NULL, KEY (sold_at), FOREIGN KEY '.
                '(sailing) REFERENCES sailings (id))',
                'CREATE TABLE refunds (id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY, ticket INT UNSIGNED NOT NULL UNIQUE, amount '.
                'DECIMAL(7,2) NOT NULL, reason VARCHAR(80), at DATETIME NOT NULL, FOREIGN KEY (ticket) REFERENCES tickets (id))',
                'CREATE VIEW takings AS SELECT DATE(t.sold_at) AS day, r.name AS route, COUNT(*) AS tickets, SUM(t.price) AS amount FROM '.
                'fares.tickets t JOIN fares.sailings s ON s.id = t.sailing JOIN fares.routes r ON r.id = s.route GROUP BY day, r.name',
                'CREATE PROCEDURE close_sailing (which INT) UPDATE fares.sailings SET closed = 1 WHERE id = which',
            ] as $statement
        ) {
            $this->server->exec($statement);
        }
        foreach (self::ROUTES as $i => $name) {
            $id = $i + 1;
            $this->server->exec('INSERT INTO routes VALUES ('.$id.', '.$this->server->quote($name).')');
            $this->server->exec(
                "INSERT INTO fares (route, passenger, amount, valid_from) SELECT $id, p, a * ".
                    (1 + $i / 10).
                    ", '2026-01-01' FROM (SELECT 'adult' p, 78 a UNION SELECT 'child', 39 UNION SELECT 'bicycle', 25 UNION SELECT 'car', ".
                    "240 UNION SELECT 'lorry', 890) x",
            );
        }
        $start = $first->modify('-60 days')->format('Y-m-d');
        $this->server->exec(
            "INSERT INTO sailings (route, leaves, vessel) SELECT 1 + seq % 6, '$start 05:40:00' + INTERVAL seq * 35 MINUTE, ELT(1 + seq ".
                "% 3, 'Dunlin', 'Knot', 'Turnstone') FROM seq_1_to_4300",
        );
        $holders = implode(', ', array_map($this->server->quote(...), self::PEOPLE));
        $this->server->exec(
            "INSERT INTO tickets (sailing, passenger, holder, price, state, sold_at) SELECT s.id, x.p, IF(x.n % 3 = 0, NULL,
                ELT(1 + x.n % 14, $holders)), f.amount, 'used', s.leaves - INTERVAL x.n % 300 MINUTE
            FROM (SELECT seq n, 1 + seq % 2400 sailing,
            ELT(1 + (seq * 7) % 11, 'adult', 'adult', 'adult', 'child', 'child', 'bicycle', 'car', 'car', 'adult', 'lorry', 'adult') p
            FROM seq_1_to_".
                self::TICKETS.
                ') x JOIN sailings s ON s.id = x.sailing JOIN fares f ON f.route = s.route AND f.passenger = x.p',
        );
        $this->server->exec(
            "INSERT INTO refunds (ticket, amount, reason, at) SELECT id, price, ELT(1 + id % 4, 'fog', 'berth closed', 'illness', ".
                "'double sale'), sold_at + INTERVAL 1 DAY FROM tickets WHERE id % 53 = 0",
        );
        $this->server->exec(
            'UPDATE sailings s JOIN (SELECT sailing, COUNT(*) n FROM tickets GROUP BY sailing) t ON t.sailing = s.id SET s.sold = t.n',
        );
        $this->server->exec(
            'CREATE TRIGGER refund_marks_ticket AFTER INSERT ON refunds FOR EACH ROW UPDATE fares.tickets SET state = "refunded" WHERE '.
                'id = NEW.ticket',
        );
    }

    /** Sales, refunds and the odd change of plan between two moments. */
    public function live(DateTimeImmutable $from, DateTimeImmutable $to, int $sales): void
    {
        $span = $to->getTimestamp() - $from->getTimestamp();
        for ($i = 0; $i < $sales; $i++) {
            $this->at($from->modify('+'.intdiv($span * $i, $sales).' seconds'));
            match (true) {
                $this->random->getInt(0, 11) === 0 => $this->refund(),
                $this->random->getInt(0, 19) === 0 => $this->server->exec('CALL close_sailing('.$this->random->getInt(1, 4300).')'),
                default => $this->sell(),
            };
        }
    }

    private function sell(): void
    {
        $sailing = $this->random->getInt(2400, 4300);
        $this->server->beginTransaction();
        foreach (range(1, $this->random->getInt(1, 4)) as $one) {
            $passenger = ['adult', 'adult', 'child', 'bicycle', 'car'][$this->random->getInt(0, 4)];
            $holder = $this->server->quote(self::PEOPLE[$this->random->getInt(0, 13)]);
            $this->server->exec(
                "INSERT INTO tickets (sailing, passenger, holder, price, sold_at) SELECT s.id, '$passenger', $holder, f.amount, NOW() ".
                    "FROM sailings s JOIN fares f ON f.route = s.route AND f.passenger = '$passenger' WHERE s.id = $sailing",
            );
        }
        $this->server->exec("UPDATE sailings SET sold = sold + $one WHERE id = $sailing");
        $this->server->commit();
    }

    private function refund(): void
    {
        $ticket = $this->random->getInt(1, self::TICKETS);
        $price = $this->server->query("SELECT price FROM tickets WHERE id = $ticket")->fetchColumn();
        $this->server->exec("INSERT IGNORE INTO refunds (ticket, amount, reason, at) VALUES ($ticket, $price, 'fog', NOW())");
    }

    /** What stands out in six weeks without being wrong. */
    public function newFares(DateTimeImmutable $moment): void
    {
        $this->at($moment);
        $this->server->exec('UPDATE fares SET amount = ROUND(amount * 1.04, 0), valid_from = CURDATE()');
        $this->server->exec('ALTER TABLE sailings ADD delay_min SMALLINT NULL');
    }

    /** Somebody marks one sailing's tickets as refunded, and leaves the WHERE out. */
    public function mistake(DateTimeImmutable $moment): void
    {
        $this->at($moment);
        $this->server->exec("UPDATE tickets SET price = 0.00, state = 'refunded'");
    }

    private function at(DateTimeImmutable $moment): void
    {
        $this->server->exec("SET time_zone = '+01:00'");
        $this->server->exec('SET TIMESTAMP = '.$moment->getTimestamp());
    }
}
