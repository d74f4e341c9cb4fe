<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Hosts\HostCommand;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementPlan;
use App\Kinds\Machines\Order\PlacementWish;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Machines\Standing\Standing;
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
use Kaiseki\Core\Instant;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `restore` for a machine that is brought back at a hypervisor. */
final readonly class PlacementRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    public static function describe(Command $command): void
    {
        $words = fn (string $enum): string => implode(', ', array_column($enum::cases(), 'value'));
        foreach ([
            'whole' => 'the machine as a whole, at a hypervisor',
            'stand-up' => 'the machine, running at once off the sets of the point; see settle, discard and standing',
            'background' => 'as --stand-up, and brought to its own storage while it runs, as soon as it answers',
            'annex' => 'with --stand-up: in a network apart, where it may run beside its original; see annex, inside and release',
            'rollback' => 'of the machine that stands there, off, only the blocks that are not as they were',
            'configuration' => 'only how it was configured',
            'set-aside' => 'set a machine aside that has its name there',
            'shut-down' => 'shut a machine down that runs there; it is ended if it does not go',
            'stop' => 'end a machine that runs there, as if its power were cut',
            'start' => 'start it at the end',
            'new-mac' => 'new addresses for its network cards',
        ] as $option => $what) {
            $command->addOption($option, null, InputOption::VALUE_NONE, $what);
        }
        foreach ([
            'join' => 'with --stand-up: in the annex that the machine of this run is in, beside that',
            'until' => 'with --stand-up: the time by which somebody wants to have decided what becomes of it',
            'follow' => 'bring it back whole, off, and have it follow the newest point every so many minutes, until it is started',
            'on' => 'the hypervisor; without it the one it is known to be at',
            'storage' => 'the storage there for its disks; without it where they are, else where there is most room',
            'network' => 'the network there for its cards; without it those it was on',
            'name' => 'its name there; without it its own',
            'memory' => 'MiB of memory',
            'cores' => 'how many cores',
            'limit' => 'megabytes a second that are written and read at most',
            'command-before' => 'a command to run first, as a JSON list of its arguments; see commands',
            'command-after' => 'a command to run once all is done, likewise',
            'firmware' => $words(Firmware::class),
            'bus' => 'what its disks are connected to: '.$words(Bus::class),
            'cards' => 'its network cards: '.
                implode(', ', array_keys(PlacementWish::cardsInWords())).' (default: as they were)',
        ] as $option => $what) {
            $command->addOption($option, null, InputOption::VALUE_REQUIRED, $what);
        }
    }

    /** Whether what was said is for a hypervisor, and not for a folder. */
    public static function isMeant(InputInterface $input): bool
    {
        $ways = ['whole', 'stand-up', 'background', 'follow', 'rollback', 'configuration'];
        $isSaid = array_filter($ways, fn (string $way): bool => (bool) $input->getOption($way));

        return $isSaid !== [] || ($input->getOption('disk') !== [] && $input->getOption('to') === null && $input->getOption('path') === []);
    }

    /** @throws InvalidArgumentException|\App\Kinds\Machines\Order\CannotBring */
    public function carryOut(): Told
    {
        [$points, $point] = MachineRestore::point($this->workload, $this->input, KaisekiCommand::copyRule($this->input));
        $wish = $this->wish();
        $host = HypervisorHost::query()->where('name', $wish->on)->first() ?? throw new InvalidArgumentException(
            $wish->on === ''
                ? 'Say with --on at which hypervisor.'
                : "There is no hypervisor \"{$wish->on}\"; \"hypervisor list\" shows those there are.",
        );
        try {
            $plan = PlacementPlan::settle($points, $point, $wish, $host, $host->look());
        } catch (HypervisorFailure $failure) {
            throw new NoServer($failure->getMessage());
        }
        $blockers = [...self::waitsForAnother($plan), ...$plan->blockers()];
        if ($this->input->getOption('dry-run') || $blockers !== []) {
            return self::toldPlan($plan, $blockers, (bool) $this->input->getOption('dry-run'));
        }
        $run = Run::query()->create([
            'workload_id' => $this->workload->id,
            'set_id' => $plan->point->id,
            'state' => 'queued',
            'plan' => $plan->order->toArray(),
            'is_whole' => $plan->order->way === MachineWay::Whole && count($plan->order->disks) === count($plan->point->parts),
        ]);
        $carrier = new MachineCarrier($this->talk->progress(...));
        $carrier->carryOut($run);
        if ($run->refresh()->state === 'waiting' && ! $this->input->getOption('no-wait')) {
            WaitAtTerminal::until($run, $carrier, $this->talk);
        }

        return $this->told($run);
    }

    /** @return list<string> what nobody does at a terminal, where no second person sees it */
    private static function waitsForAnother(PlacementPlan $plan): array
    {
        $marked = TouchedMachine::by($plan->order)->marked();

        return $marked === []
            ? []
            : ["Changing anything of {$marked[0]->name} in place waits for a second person; order it on the worksheet of a request."];
    }

    private function wish(): PlacementWish
    {
        $input = $this->input;
        $ways = array_filter([
            $input->getOption('whole') || $input->getOption('follow') !== null ? MachineWay::Whole : null,
            $input->getOption('stand-up') || $input->getOption('background') ? MachineWay::StandUp : null,
            $input->getOption('rollback') ? MachineWay::Rollback : null,
            $input->getOption('configuration') ? MachineWay::Configuration : null,
        ]);
        if (count($ways) > 1 || $input->getOption('to') !== null || $input->getOption('path') !== []) {
            throw new InvalidArgumentException('Say one of --whole, --stand-up, --rollback, --configuration, --to=FOLDER and --path.');
        }
        if ($input->getOption('follow') !== null && $input->getOption('start')) {
            throw new InvalidArgumentException('One that follows is off: leave --start away.');
        }
        $isApart = $input->getOption('annex') || $input->getOption('join') !== null;
        if ($isApart && (! $input->getOption('stand-up') || $input->getOption('background'))) {
            throw new InvalidArgumentException('--annex goes with --stand-up, and not with --background.');
        }
        $cards = $input->getOption('cards') ?? PlacementWish::CONNECTED;
        if (! isset(PlacementWish::cardsInWords()[$cards])) {
            throw new InvalidArgumentException('--cards is connected, unplugged or none.');
        }

        return new PlacementWish(
            array_values($ways)[0] ?? MachineWay::Disks,
            (string) ($input->getOption('on') ?? HypervisorHost::of($this->workload)[0]->name ?? ''),
            (string) $input->getOption('name'),
            (string) $input->getOption('storage'),
            (string) $input->getOption('network'),
            array_values(array_unique((array) $input->getOption('disk'))),
            self::number($input, 'memory'),
            self::number($input, 'cores'),
            self::oneOf($input, 'firmware', Firmware::class),
            self::oneOf($input, 'bus', Bus::class),
            $cards,
            (bool) $input->getOption('new-mac'),
            (bool) $input->getOption('set-aside'),
            $input->getOption('stop') || $input->getOption('shut-down'),
            (bool) $input->getOption('start'),
            (bool) $input->getOption('part'),
            KaisekiCommand::copyRule($input),
            self::number($input, 'limit'),
            $this->until(),
            self::number($input, 'follow'),
            $isApart,
            (bool) $input->getOption('background'),
            self::number($input, 'join'),
            (bool) $input->getOption('shut-down'),
            before: $this->command('before'),
            after: $this->command('after'),
        );
    }

    /** @return list<string> */
    private function command(string $when): array
    {
        $said = $this->input->getOption("command-$when");

        return $said === null ? [] : HostCommand::parse((string) $said);
    }

    private function until(): ?int
    {
        $said = $this->input->getOption('until');
        if ($said !== null && ! $this->input->getOption('stand-up') && ! $this->input->getOption('background')) {
            throw new InvalidArgumentException('--until goes with --stand-up.');
        }

        return $said === null ? null : Instant::parse((string) $said)->in()->getTimestamp();
    }

    public static function number(InputInterface $input, string $option): ?int
    {
        $said = $input->getOption($option);
        if ($said !== null && preg_match('/^[1-9]\d{0,8}$/D', (string) $said) !== 1) {
            throw new InvalidArgumentException("--$option is a number from 1 on.");
        }

        return $said === null ? null : (int) $said;
    }

    /**
     * @template T of \BackedEnum
     *
     * @param  class-string<T>  $enum
     * @return T|null
     */
    public static function oneOf(InputInterface $input, string $option, string $enum): ?\BackedEnum
    {
        $said = $input->getOption($option);

        return $said === null ? null : $enum::tryFrom((string) $said) ?? throw new InvalidArgumentException(
            "--$option is one of ".implode(', ', array_column($enum::cases(), 'value')).'.',
        );
    }

    /** @param  list<string>  $blockers */
    private static function toldPlan(PlacementPlan $plan, array $blockers, bool $isDry): Told
    {
        $assumed = $plan->isRecorded
            ? []
            : ['The set does not say how the machine was configured: '.implode('; ', $plan->order->settings->words()).' is assumed.'];
        array_push($assumed, ...$plan->cautions());
        $plan->without === [] || $assumed[] = 'No set has '.implode(', ', $plan->without).': the machine comes back without.';
        $document = [
            'run' => null,
            'point' => $plan->point->name,
            'order' => $plan->order->sentence,
            'settings' => $plan->order->settings->toArray(),
            'needs' => $plan->needs(),
            'missing' => array_sum($plan->planned->lost()),
            'assumed' => $assumed,
            'blockers' => $blockers,
        ] + ($isDry ? [] : ['error' => implode(' ', $blockers)]);
        $lines = $isDry ? [$plan->order->sentence, ...$assumed, ...$blockers, 'Nothing was done.'] : $blockers;

        return new Told($blockers === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED, $document, fn (): array => $lines);
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        if ($run->state !== 'done') {
            $this->talk->say(
                $run->state === 'waiting'
                    ? "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).', and goes on by itself.'
                    : (string) $run->failure,
            );
        }
        $document = [
            'run' => $run->id,
            'point' => $run->set_name,
            'state' => $run->state,
            'machine' => $run->plan['machine'],
            'on' => $run->plan['on'],
            'bytes' => $outcome['bytes'] ?? 0,
            'seconds' => $run->seconds() ?? 0.0,
            'estimate_seconds' => $run->estimate,
            'waits_for' => $run->waits_for ?? [],
            'disks' => $outcome['disks'] ?? [],
            'checks' => $outcome['checks'] ?? [],
            'set_aside' => $outcome['aside'] ?? null,
            'stands_as' => $outcome['stands_as'] ?? null,
            'settled_by' => Standing::ofRun($run)?->settled_by,
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $code = match (true) {
            $run->state === 'waiting' => KaisekiCommand::BLOCKED,
            default => $run->state === 'done' && ($outcome['right'] ?? false) ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
        };

        return new Told($code, $document, fn (): iterable => $run->state === 'done' ? self::lines($run) : []);
    }

    /** @return iterable<string> */
    private static function lines(Run $run): iterable
    {
        $outcome = $run->outcome ?? [];
        yield sprintf(
            'Run %d: %s at %s, %s in %s, from %s.',
            $run->id,
            $outcome['machine'],
            $outcome['on'],
            isset($outcome['stands_as']) ? 'standing' : Words::size($outcome['bytes']).' written',
            Words::duration($run->seconds() ?? 0.0),
            $run->set_name,
        );
        if (isset($outcome['stands_as'])) {
            $by = Standing::ofRun($run)?->settled_by;
            yield "  it stands as {$outcome['stands_as']}: ".
                ($by === null ? "settle {$run->id}" : "run $by")." brings it to its storage, discard {$run->id} drops it";
        }
        if (isset($run->plan['follow'])) {
            yield "  it follows the newest point: settle {$run->id} takes the last step and starts it, put-back {$run->id} drops it";
        }
        if (isset($outcome['aside'])) {
            yield "  what stood there is {$outcome['aside']} now: put-back {$run->id} brings it back";
        }
        foreach (CheckLine::all($outcome['checks']) as $check) {
            yield "  {$check->told()}";
        }
    }
}
