<?php

declare(strict_types=1);

namespace App\Kinds\Databases;

use App\Kinds\Carrier;
use App\Kinds\Databases\Demo\FaresServer;
use App\Kinds\Databases\Intake\DatabaseIntake;
use App\Kinds\Databases\Order\DatabaseSaid;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Page\DatabaseSheetView;
use App\Kinds\Databases\Run\DatabaseCarrier;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\DatabaseSource;
use App\Kinds\Databases\Terminal\DatabaseTerminal;
use App\Kinds\ExportedParts;
use App\Kinds\Intake;
use App\Kinds\Judge;
use App\Kinds\Kind;
use App\Kinds\Need;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** Databases of a MariaDB server: dumps, and the binary logs that are rolled forward on them. */
final class Databases implements Kind
{
    public const NAME = 'database';

    public function name(): string
    {
        return self::NAME;
    }

    public function noun(): string
    {
        return 'a database';
    }

    public function unit(BackupSet $set): string
    {
        return $set->level === 'log' ? 'transaction' : 'table';
    }

    public function needs(): array
    {
        return [
            new Need('mariadb-dump', 'mariadb-client', 64, 'making fulls'),
            new Need('mariadb-binlog', 'mariadb-client', 64, 'fetching logs, and rolling them forward'),
            new Need('mariadb', 'mariadb-client-core', 15, 'loading'),
            new Need('mariadb-check', 'mariadb-client-core', 15, 'looking whether tables are sound'),
            new Need('mariadb-tzinfo-to-sql', 'mariadb-client', 64, 'zones of time for the server that works here'),
            new Need('mariadbd', 'mariadb-server-core', 45, 'working on what comes back before it is put in place'),
        ];
    }

    public function provider(): string
    {
        return DatabasesProvider::class;
    }

    public function targets(): array
    {
        return [DatabaseServer::class];
    }

    public function judge(Points $points): Judge
    {
        return new DatabaseJudge($points);
    }

    public function source(Workload $workload): Source
    {
        return new DatabaseSource($workload);
    }

    public function intake(): Intake
    {
        return new DatabaseIntake;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        return new DatabaseSheet($request);
    }

    public function forget(RecoveryRequest $request): void
    {
        (new DatabaseSaid([]))->keepOn($request);
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return new DatabaseCarrier($told);
    }

    public function terminal(): Terminal
    {
        return new DatabaseTerminal;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        return view('kinds.database.show', ['view' => new DatabaseSheetView($request, $viewer, $http)]);
    }

    public function view(string $part): string
    {
        return "kinds.database.$part";
    }

    public function exported(): ExportedParts
    {
        return new ExportedParts(['log_transactions'], ['sections']);
    }

    public function newSources(): array
    {
        return [];
    }

    public function tookUp(Workload $workload, string $place): void
    {
    }

    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
        (new FaresServer)->make($today, $days);
        $kaiseki('schedule', 'fares-db', '--cron=40 3 * * 0=full', '--cron=20 * * * *=log', '--zone=Europe/Oslo');
    }
}
