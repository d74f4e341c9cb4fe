<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/**
 * A kind of workload: all that is its own stands behind this, and nothing outside its folder compares its name or names one of its
 * classes. It is named in config/kinds.php, or in a file that KAISEKI_KINDS points to. What it needs of the application it brings with
 * a service provider: migrations, routes, views.
 */
interface Kind
{
    /** As it stands in workloads.kind and in --kind=; letters, at most twenty. */
    public function name(): string;

    /** What one of its workloads is, with its article: "a database". */
    public function noun(): string;

    /** What BackupSet::entries counts in one of its sets: "member". */
    public function unit(BackupSet $set): string;

    /** @return list<Need> programs that it needs on this machine, beyond what the desk itself does */
    public function needs(): array;

    /** @return class-string<\Illuminate\Support\ServiceProvider>|null */
    public function provider(): ?string;

    /** @return list<class-string<\Illuminate\Database\Eloquent\Model&\App\Models\Target>> sorts of targets that it brings */
    public function targets(): array;

    public function judge(Points $points): Judge;

    public function source(Workload $workload): Source;

    public function intake(): Intake;

    /** The order of a request as it is settled now. */
    public function sheet(RecoveryRequest $request): OrderSheet;

    /** What was decided for a workload of another kind, or another workload, means nothing for this one. */
    public function forget(RecoveryRequest $request): void;

    /** @param  (Closure(string): void)|null  $told  told now and then how far it is */
    public function carrier(?Closure $told = null): Carrier;

    public function terminal(): Terminal;

    /** The page of a request, for whoever sees the work on it. */
    public function page(RecoveryRequest $request, User $viewer, Request $http): View;

    /**
     * The name of one of its views: "run" (what came of a run), "proof" (the printed proof), "approval" (what an order does); "estate"
     * (what stands beside the workloads), "care" (what is settled for one of them) and "own-run" (a run, to who asked for it), which it
     * need not have.
     */
    public function view(string $part): string;

    public function exported(): ExportedParts;

    /** @return list<FoundSource> originals of its that are there, and that nothing protects */
    public function newSources(): array;

    /** One of them has become a workload: where it is, as it was found, is known from now on. */
    public function tookUp(Workload $workload, string $place): void;

    /**
     * Makes its part of the demo, beside the files that the demo is mostly about.
     *
     * @param  DateTimeImmutable  $today  midnight
     * @param  int  $days  the demo begins so many days before
     * @param  Closure(string...): array<mixed>  $kaiseki  runs a command of bin/kaiseki, and gives its document
     */
    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void;
}
