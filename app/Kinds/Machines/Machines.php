<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Instance;
use App\Kinds\AddsToDesk;
use App\Kinds\BringsOthers;
use App\Kinds\Carrier;
use App\Kinds\ExportedParts;
use App\Kinds\Given;
use App\Kinds\HasHelpers;
use App\Kinds\Intake;
use App\Kinds\Judge;
use App\Kinds\Machines\Demo\BerthPlanner;
use App\Kinds\Machines\Demo\HarbourMachines;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Intake\MachineIntake;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\FromInside;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Order\MachineSaid;
use App\Kinds\Machines\Order\MachineSheet;
use App\Kinds\Machines\Own\OwnMachine;
use App\Kinds\Machines\Page\MachineSheetView;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\Standing;
use App\Kinds\Machines\Terminal\BlankRestore;
use App\Kinds\Machines\Terminal\MachineTerminal;
use App\Kinds\Machines\Terminal\MetalRestore;
use App\Kinds\Need;
use App\Kinds\OffersOwn;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\View\WaitingThing;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\StandIns\GuestSystem;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Filesystem\Filesystem;

/** Machines by the images of their disks: in full, and by what changed over the image below. */
final class Machines implements AddsToDesk, BringsOthers, HasHelpers, OffersOwn
{
    public const NAME = 'machine';

    public function name(): string
    {
        return self::NAME;
    }

    public function noun(): string
    {
        return 'a machine';
    }

    public function unit(BackupSet $set): string
    {
        return 'block';
    }

    public function needs(): array
    {
        return [
            new Need('qemu-img', 'qemu-utils', 12, 'writing images as qcow2, vhd, vhdx and vmdk'),
            new Need('e2fsck', 'e2fsprogs', 2, 'checking ext2 to ext4 in what was taken'),
            new Need('debugfs', 'e2fsprogs', 2, 'bringing files into machines that are off'),
            new Need('nsupdate', 'bind9-dnsutils', 5, 'having names of machines lead to where those are'),
            new Need('fsck.fat', 'dosfstools', 1, 'checking FAT in what was taken'),
            new Need('xorriso', 'xorriso', 3, 'recovery media as an image of a disc'),
            new Need('mcopy', 'mtools', 1, 'recovery media as an image of a disc or a stick'),
        ];
    }

    public function provider(): string
    {
        return MachinesProvider::class;
    }

    public function targets(): array
    {
        return [HypervisorHost::class];
    }

    public function judge(Points $points): Judge
    {
        return new MachineJudge($points);
    }

    public function source(Workload $workload): Source
    {
        return new MachineSource($workload);
    }

    public function intake(): Intake
    {
        return new MachineIntake;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        return new MachineSheet($request);
    }

    public function forget(RecoveryRequest $request): void
    {
        (new MachineSaid)->keepOn($request);
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return new MachineCarrier($told);
    }

    public function terminal(): Terminal
    {
        return new MachineTerminal;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        return view('kinds.machine.show', ['view' => new MachineSheetView($request, $viewer, $http)]);
    }

    public function view(string $part): string
    {
        return "kinds.machine.$part";
    }

    /** Those that sent themselves, by an agent: their sets are the second form of a machine's. */
    public function brings(Workload $workload): bool
    {
        return FromInside::isOf($workload);
    }

    public function given(BackupSet $set): ?Given
    {
        return FromInside::isAt($set)
            ? new Given('the whole machine, onto other disks', true, 'by what its agent wrote down of its own disks')
            : null;
    }

    public function writeNightSheet(Points $points, SetOutline $point, array $archives, string $folder): ?string
    {
        if (! FromInside::isAt($points->model($point))) {
            return null;
        }
        $sheet = "metal-sheet-{$points->workload->name}.sh";
        $lines = (new FromInside($points, $point, new CopyRule))->nightSheet($archives);
        (new Filesystem)->dumpFile("$folder/$sheet", implode("\n", [...$lines])."\n");

        return "$sheet: {$points->workload->name} onto the disks of another machine; a recovery medium runs it, without a desk.";
    }

    public function describeBringing(Command $command): void
    {
        match ($command->getName()) {
            'restore' => self::describeRestore($command),
            'hand-sheet' => MetalRestore::describeSheet($command),
            default => null,
        };
    }

    private static function describeRestore(Command $command): void
    {
        MetalRestore::describe($command);
        BlankRestore::describe($command);
    }

    public function isMeant(InputInterface $input): bool
    {
        $isSaid = fn (string $option): bool => $input->hasOption($option) && $input->getOption($option) !== null;

        return $isSaid('to-metal') || $isSaid('to-blank');
    }

    public function offer(RecoveryRequest $request): View
    {
        return view('kinds.machine.onto-metal', ['request' => $request, 'enrolments' => Enrolment::ofRequest($request)]);
    }

    public function ownPages(User $user): array
    {
        // Who works for all of them has the desk for it.
        $isOffered = $user->role !== Role::Operator && OwnMachine::machines($user)->isNotEmpty();

        return $isOffered ? ['/own-machines' => 'Your machines'] : [];
    }

    public function isOwn(Run $run): bool
    {
        return $run->user_id !== null && ($run->plan['way'] ?? '') === MetalOrder::WAY && ($run->plan['own_of'] ?? null) === $run->user_id;
    }

    public function refusesOwn(Run $run): ?string
    {
        return OwnMachine::holds($run) ? null : "{$run->user?->name} may not bring {$run->workload->name} onto other disks any more.";
    }

    public function exported(): ExportedParts
    {
        return new ExportedParts([], ['blocks']);
    }

    public function helpers(): array
    {
        $helpers = [];
        foreach (ServedDisks::all() as $served) {
            $helpers["disks of {$served->name}"] = ['machine:serve', $served->name];
        }

        return $helpers;
    }

    public function waiting(User $user): array
    {
        $all = [...Standing::now()->all(), ...Following::now()->all(), ...Substitute::concerns()];
        $seen = array_filter($all, fn (Standing|Following|Substitute $one): bool => $user->sees($one->run->workload->group));

        $inStep = Enrolment::following()->filter(fn (Enrolment $one): bool => $user->sees($one->workload->group))->all();

        return array_values(array_map(
            fn (Standing|Following|Substitute|Enrolment $one): WaitingThing => $one->waiting(),
            [...$seen, ...$inStep],
        ));
    }

    public function newSources(): array
    {
        return HypervisorHost::unprotected();
    }

    public function tookUp(Workload $workload, string $place): void
    {
        [$host, $machine] = [...explode(':', $place, 2), ''];
        HypervisorHost::query()->where('name', $host)->first()?->holds($workload, $machine);
    }

    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
        $guest = new GuestSystem(Instance::path('guest'));
        (new BerthPlanner)->make($today, $days, $guest, $kaiseki);
        (new HarbourMachines($guest, $kaiseki))->make($today);
    }
}
