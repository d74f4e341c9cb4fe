<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Carrier;
use App\Kinds\ExportedParts;
use App\Kinds\Intake;
use App\Kinds\Items\Demo\CrewMailDemo;
use App\Kinds\Items\Intake\ItemsIntake;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Order\ItemsSheet;
use App\Kinds\Items\Own\OwnMailbox;
use App\Kinds\Items\Own\OwnOrder;
use App\Kinds\Items\Page\ItemsSheetView;
use App\Kinds\Items\Run\ItemsCarrier;
use App\Kinds\Items\Server\MailServer;
use App\Kinds\Items\Terminal\ItemsTerminal;
use App\Kinds\Judge;
use App\Kinds\Kind;
use App\Kinds\OffersOwn;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Trees\TreeJudge;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** Mailboxes, message by message: sets of files in which each message is known. */
final class Items implements Kind, OffersOwn
{
    public const NAME = 'items';

    public function name(): string
    {
        return self::NAME;
    }

    public function noun(): string
    {
        return 'mailboxes';
    }

    public function unit(BackupSet $set): string
    {
        return 'member';
    }

    public function needs(): array
    {
        return [];
    }

    public function provider(): string
    {
        return ItemsProvider::class;
    }

    public function targets(): array
    {
        return [MailServer::class];
    }

    public function judge(Points $points): Judge
    {
        return new TreeJudge($points, ItemsGive::of(...));
    }

    public function source(Workload $workload): Source
    {
        return new ItemsSource($workload);
    }

    public function intake(): Intake
    {
        return new ItemsIntake;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        return new ItemsSheet($request);
    }

    public function forget(RecoveryRequest $request): void
    {
        (new ItemsSaid)->keepOn($request);
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return new ItemsCarrier($told);
    }

    public function terminal(): Terminal
    {
        return new ItemsTerminal;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        return view('kinds.items.show', ['view' => new ItemsSheetView($request, $viewer, $http)]);
    }

    public function view(string $part): string
    {
        return "kinds.items.$part";
    }

    public function ownPages(User $user): array
    {
        return OwnMailbox::of($user) === [] ? [] : ['/own' => 'Yours'];
    }

    public function isOwn(Run $run): bool
    {
        return $run->user_id !== null && ItemsOrder::fromArray($run->plan)->ownOf === $run->user_id;
    }

    public function refusesOwn(Run $run): ?string
    {
        $order = ItemsOrder::fromArray($run->plan);

        return $run->user === null ? null : OwnOrder::refuses(
            $run->user,
            $run->workload,
            $order,
            $order->selection->at($run->workload, $run->set),
        );
    }

    public function exported(): ExportedParts
    {
        return new ExportedParts;
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
        (new CrewMailDemo)->make($today, $days, $kaiseki);
    }
}
