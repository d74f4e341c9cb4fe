<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Blank\BlankPlan;
use App\Kinds\Machines\Blank\BlankWish;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\OrderedRun;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Run;
use App\Models\Workload;
use App\Runs\WaitAtTerminal;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\UnfitSettings;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for a machine that comes onto a blank one at a hypervisor, which is made for it. */
final readonly class BlankRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    /** Those that others have too are described by them. */
    public static function describe(Command $command): void
    {
        $words = fn (string $enum): string => implode(', ', array_column($enum::cases(), 'value'));
        $command->addOption('drill', null, InputOption::VALUE_NONE,
            'with --to-blank: start it in a network apart, ask it who it is, and remove it again');
        foreach ([
            'to-blank' => 'onto a blank machine that is made for it: the hypervisor',
            'storage' => 'with --to-blank: the storage there; without it where there is most room',
            'network' => 'with --to-blank: the network there that it is on in the end',
            'name' => 'with --to-blank: its name there; without it its own',
            'memory' => 'with --to-blank: MiB of memory',
            'cores' => 'with --to-blank: how many cores',
            'firmware' => 'with --to-blank: '.$words(Firmware::class),
            'bus' => 'with --to-blank: what its disks are connected to: '.$words(Bus::class),
        ] as $option => $what) {
            $command->getDefinition()->hasOption($option) || $command->addOption($option, null, InputOption::VALUE_REQUIRED, $what);
        }
        $command->getDefinition()->hasOption('start') || $command->addOption('start', null, InputOption::VALUE_NONE, 'start it at the end');
    }

    /** @throws InvalidArgumentException|CannotBring */
    public function carryOut(): Told
    {
        $plan = $this->plan();
        $blockers = $plan->blockers();
        if ($this->input->getOption('dry-run') || $blockers !== []) {
            return self::toldPlan($plan, $blockers, (bool) $this->input->getOption('dry-run'));
        }
        $run = OrderedRun::begin($this->workload, $plan->point, $plan->ordered()->toArray(), $plan->layout->leftAlone === []);
        $carrier = new MachineCarrier($this->talk->progress(...));
        $carrier->carryOut($run);
        if ($run->refresh()->state === 'waiting' && ! $this->input->getOption('no-wait')) {
            WaitAtTerminal::until($run, $carrier, $this->talk);
        }

        return $this->told($run);
    }

    private function plan(): BlankPlan
    {
        $on = (string) $this->input->getOption('to-blank');
        $host = HypervisorHost::query()->where('name', $on)->first()
            ?? throw new InvalidArgumentException("There is no hypervisor \"$on\"; \"hypervisor list\" shows those there are.");
        [$points, $point] = MachineRestore::point($this->workload, $this->input, KaisekiCommand::copyRule($this->input));
        try {
            return BlankPlan::settle($points, $point, $this->wish(), $host, $host->look());
        } catch (HypervisorFailure $failure) {
            throw new NoServer($failure->getMessage());
        } catch (UnfitSettings $unfit) {
            throw CannotBring::because(ucfirst($unfit->getMessage()).'.');
        }
    }

    private function wish(): BlankWish
    {
        $input = $this->input;
        $said = fn (string $option): string => (string) $input->getOption($option);
        $layout = MetalRestore::wish($input);
        $layout->onto === [] || throw new InvalidArgumentException('--onto goes with --to-metal: a blank machine has a disk for each.');
        $files = array_values(array_map(strval(...), (array) $input->getOption('answers')));

        return new BlankWish(
            $said('name'),
            $said('storage'),
            $said('network'),
            PlacementRestore::number($input, 'memory'),
            PlacementRestore::number($input, 'cores'),
            PlacementRestore::oneOf($input, 'firmware', Firmware::class),
            PlacementRestore::oneOf($input, 'bus', Bus::class) ?? Bus::Virtio,
            (bool) $input->getOption('drill'),
            (bool) $input->getOption('start'),
            $files === [] ? null : new Answer(MetalRestore::asked($input), $files),
            $layout,
            KaisekiCommand::copyRule($input),
            (bool) $input->getOption('new-machine-id'),
            PlacementRestore::number($input, 'follow'),
        );
    }

    /** @param  list<string>  $blockers */
    private static function toldPlan(BlankPlan $plan, array $blockers, bool $isDry): Told
    {
        $sentence = $plan->sentence('UTC');
        $document = [
            'run' => null,
            'point' => $plan->point->name,
            'order' => $sentence,
            'settings' => $plan->order->settings->toArray(),
            'needs' => $plan->needs(),
            ...['cautions' => $plan->cautions()] + LayoutCommand::document($plan->layout),
            'blockers' => $blockers,
        ] + ($isDry ? [] : ['error' => implode(' ', $blockers)]);

        return new Told($blockers === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED, $document, fn (): array => [
            $sentence, ...LayoutCommand::lines($plan->layout), ...array_diff($plan->cautions(), $plan->layout->cautions), ...$blockers,
            'Nothing was done.',
        ]);
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        $run->state === 'done' || $this->talk->say((string) $run->failure);
        $waits = ($outcome['waits'] ?? false) === true ? Enrolment::query()->where('maker_id', $run->id)->value('id') : null;
        $steps = $run->steps->map(fn ($step): array => ['step' => $step->name, 'seconds' => $step->seconds()])->all();
        $document = [
            'run' => $run->id,
            'point' => $run->set_name,
            'state' => $run->state,
            'on' => $run->plan['on'],
            'machine' => ($outcome['placed'] ?? false) ? $run->plan['machine'] : null,
            'bytes' => $outcome['bytes'] ?? 0,
            'seconds' => $run->seconds() ?? 0.0,
            'steps' => $steps,
            'disks' => $outcome['disks'] ?? [],
            'checks' => $outcome['checks'] ?? [],
            'cautions' => $outcome['cautions'] ?? [],
            'wanted' => $outcome['wanted'] ?? [],
            'waits' => $waits,
            'next' => $outcome['next'] ?? [],
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $isRight = $run->state === 'done' && ($outcome['right'] ?? false);

        $code = $isRight ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT;

        return new Told($code, $document, fn (): array => $run->state !== 'done' ? [] : [
            "Run {$run->id}: {$run->workload->name} as of {$run->set_name}, in ".Words::duration($run->seconds() ?? 0.0).'.',
            ...array_map(fn (array $step): string => '  '.str_pad(Words::duration($step['seconds'] ?? 0.0), 10).$step['step'], $steps),
            ...array_map(fn (CheckLine $check): string => "  {$check->told()}", CheckLine::all($outcome['checks'] ?? [])),
            ...array_map(fn (string $line): string => "  $line", [...$outcome['cautions'] ?? [], ...$outcome['next'] ?? []]),
            ...$waits === null ? [] : ["  it waits: medium switch $waits takes the last step"],
        ]);
    }
}
