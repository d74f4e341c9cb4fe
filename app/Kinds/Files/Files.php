<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Agents\Agent;
use App\Instance;
use App\Kinds\Carrier;
use App\Kinds\ExportedParts;
use App\Kinds\Files\Demo\ChartRoomDemo;
use App\Kinds\Files\Intake\FilesIntake;
use App\Kinds\Files\Order\FilesSaid;
use App\Kinds\Files\Order\Worksheet;
use App\Kinds\Files\Page\WorksheetView;
use App\Kinds\Files\Terminal\FilesTerminal;
use App\Kinds\FoundSource;
use App\Kinds\Intake;
use App\Kinds\Judge;
use App\Kinds\Need;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\TakesAgents;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\Making\FolderSource;
use App\Trees\Run\TreeCarrier;
use App\Trees\TreeJudge;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\StandIns\FileHost;

/** Folder trees: archives of files, in full and by what changed. */
final class Files implements TakesAgents
{
    public const NAME = 'files';

    public function name(): string
    {
        return self::NAME;
    }

    public function noun(): string
    {
        return 'files';
    }

    public function unit(BackupSet $set): string
    {
        return 'member';
    }

    public function needs(): array
    {
        return [new Need('bsdtar', 'libarchive-tools', 1, 'sending a zip')];
    }

    public function provider(): string
    {
        return FilesProvider::class;
    }

    public function targets(): array
    {
        return [];
    }

    public function judge(Points $points): Judge
    {
        return new TreeJudge($points);
    }

    public function source(Workload $workload): Source
    {
        $agent = $workload->source === null ? Agent::of($workload) : null;

        return $agent === null ? new FolderSource($workload) : new AgentSource($agent);
    }

    public function intake(): Intake
    {
        return new FilesIntake;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        return new Worksheet($request);
    }

    public function forget(RecoveryRequest $request): void
    {
        (new FilesSaid)->keepOn($request);
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return new TreeCarrier($told);
    }

    public function terminal(): Terminal
    {
        return new FilesTerminal;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        return view('kinds.files.show', ['view' => new WorksheetView($request, $viewer, $http)]);
    }

    public function view(string $part): string
    {
        return "kinds.files.$part";
    }

    public function exported(): ExportedParts
    {
        return new ExportedParts;
    }

    public function newSources(): array
    {
        $known = Workload::query()->whereNotNull('source')->pluck('source')->all();
        $found = [];
        foreach (FileHost::in(Instance::path('hosts')) as $name => $host) {
            if (! in_array($host->root(), $known, true)) {
                $found[] = new FoundSource((string) $name, $host->group(), $host->root(), ['source' => $host->root()]);
            }
        }

        return $found;
    }

    public function tookUp(Workload $workload, string $place): void
    {
    }

    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
        (new ChartRoomDemo)->make($today, $kaiseki);
    }
}
