<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Demo;

use App\Demo\DemoFailed;
use App\Demo\SetClock;
use App\Instance;
use App\Kinds\Databases\Databases;
use App\Kinds\Databases\Intake\DatabaseProtection;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Models\Store;
use App\Models\Workload;
use DateTimeImmutable;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\SorrelSoundFares;
use PDO;

/** The demo's second server: six weeks of fares, with fulls and logs, up to a statement without its WHERE. */
final class FaresServer
{
    /** Days after which a full is made. */
    private const FULLS = [0, 14, 28, 39];

    /** The log of this day is lost. */
    private const LOST = 19;

    /** @param  DateTimeImmutable  $today  midnight */
    public function make(DateTimeImmutable $today, int $days): void
    {
        // The owner of the server's folder comes in through the socket; the desk by an account of its own, from this machine only.
        $owner = posix_getpwuid(posix_geteuid())['name'] ?? 'root';
        $password = bin2hex(random_bytes(16));
        $server = new PDO('mysql:unix_socket='.Instance::path('sql/fares.sock').';charset=utf8mb4', $owner, '', [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
        ]);
        $server->exec("CREATE OR REPLACE USER keeper@'127.0.0.1' IDENTIFIED BY '$password'");
        $server->exec("GRANT ALL ON *.* TO keeper@'127.0.0.1' WITH GRANT OPTION");
        $server->exec('DROP DATABASE IF EXISTS fares');
        $first = $today->modify("-$days days");
        $fares = new SorrelSoundFares($server);
        $fares->begin($first);
        $server->exec('RESET MASTER');
        $known = DatabaseServer::query()->updateOrCreate(
            ['name' => 'fares-db'],
            [
                'host' => '127.0.0.1',
                'port' => (int) file_get_contents(Instance::path('fares.port')),
                'user' => 'keeper',
                'password' => $password,
                'site' => 'boathouse',
            ],
        );
        $workload = Workload::query()->updateOrCreate(
            ['name' => 'fares-db'],
            [
                'kind' => Databases::NAME,
                'group' => 'piers',
                'zone' => 'Europe/Oslo',
                'site' => 'boathouse',
                'rpo_s' => 26 * 3600,
                'rto_s' => 3600,
            ],
        );
        $known->holds($workload);
        $clock = new SetClock;
        $protection = new DatabaseProtection($workload, Store::query()->where('name', 'boathouse')->firstOrFail(), $clock);
        for ($day = 0; $day <= $days; $day++) {
            $morning = $first->modify("+$day days");
            if (in_array($day, self::FULLS, true)) {
                $clock->moment = Instant::of($morning->modify('02:40'));
                $protection->make(Level::of('full'), false, null, null, 60);
            }
            match ($day) {
                22 => $fares->newFares($morning->modify('11:00')),
                default => null,
            };
            if ($day === $days - 1) {
                $mistake = $morning->modify('13:32:07');
                $fares->live($morning->modify('05:00'), $mistake, 40);
                $fares->mistake($mistake);
                $fares->live($mistake->modify('+40 seconds'), $morning->modify('21:00'), 31);
            } elseif ($day < $days) {
                $fares->live($morning->modify('05:00'), $morning->modify('21:00'), 36);
            } else {
                $fares->live($morning->modify('04:30'), $morning->modify('06:00'), 6);
            }
            $server->exec('FLUSH BINARY LOGS');
        }
        $clock->moment = Instant::of(new DateTimeImmutable);
        $protection->make(Level::of('log'), false, null, null, 60);
        $logs = glob(Instance::path('stores/boathouse/fares-db/*.gz')) ?: [];
        $lost = array_values(array_filter($logs, fn (string $log): bool => str_contains(basename($log), sprintf('.%06d.', self::LOST))));
        unlink($lost[0] ?? throw DemoFailed::because('the log that is to be lost is not there.'));
    }
}
