<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Hosts\HostCommand;
use App\Hosts\Hosts;
use App\Models\BackupSet;
use App\Models\Host;
use App\Models\Workload;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Trees\Places\PlanOfReading;
use App\Trees\Run\PlannedOrder;
use App\Trees\Run\RestorePlan;
use App\Trees\Run\Targets;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** What `restore` and `preview` are told, as a plan. */
final readonly class OrderFromInput
{
    private function __construct(
        public Points $points,
        public BackupSet $point,
        public RestorePlan $plan,
        public PlanOfReading $reading,
        public PlannedOrder $planned,
    ) {
    }

    public static function describe(Command $command): void
    {
        $command
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set')
            ->addOption('path', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'what to bring back; / is the whole tree')
            ->addOption(
                'to',
                null,
                InputOption::VALUE_REQUIRED,
                'a folder of this machine, or of --host; it is made if only its last part is missing',
            )
            ->addOption('host', null, InputOption::VALUE_REQUIRED, 'a host made known with host-add; --to is a folder of it then')
            ->addOption('in-place', null, InputOption::VALUE_NONE, 'to where it came from')
            ->addOption(
                'conflict',
                null,
                InputOption::VALUE_REQUIRED,
                'where something stands already: '.implode(', ', array_column(ConflictRule::cases(), 'value')),
                ConflictRule::Beside->value,
            )
            ->addOption(
                'conflict-in',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'FOLDER=RULE: another rule in one folder of the order',
            )
            ->addOption(
                'only-permissions',
                null,
                InputOption::VALUE_NONE,
                'give what stands there its owner, mode and access list of then, and change nothing else; no archive is read',
            )
            ->addOption('flat', null, InputOption::VALUE_NONE, 'all files into one folder, clashing names numbered')
            ->addOption('rename', null, InputOption::VALUE_REQUIRED, 'another name for the one --path')
            ->addOption('keep-setid', null, InputOption::VALUE_NONE, 'keep set-user and set-group bits')
            ->addOption(
                'across-points',
                null,
                InputOption::VALUE_NONE,
                'what cannot be read at the point, or is in doubt there, from the newest point at which it is right',
            )
            ->addOption(
                'before',
                null,
                InputOption::VALUE_REQUIRED,
                'files: a command, as a JSON list, that is run in the target before anything is staged; database: up to the transaction '.
                    'of this GTID, without it',
            )
            ->addOption(
                'after',
                null,
                InputOption::VALUE_REQUIRED,
                'a command, as a JSON list, that is run in the target when all is in place',
            )
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'seconds that a command may take', '300');
    }

    /**
     * @param  list<string>  $paths  as in trees
     *
     * @throws InvalidArgumentException|CannotPlan
     */
    public static function read(InputInterface $input, Workload $workload, array $paths, CopyRule $rule): self
    {
        $isOnly = self::isOnlyPermissions($input);
        $target = self::target($input, $workload);
        $points = new Points($workload, null, $rule);
        $rule->mustName($points->storeNames());
        $across = $input->getOption('across-points')
            ? (Demands::parse((string) $input->getOption('demand'))->clear
                ? 'clear'
                : 'readable')
            : '';
        // With files from several points, the point is the newest there is, whatever is wrong with it.
        $point = $across === '' ? self::point($input, $points, $paths) : $points->model(SalvageList::point($input, $points));
        foreach ($across === '' ? $paths : [] as $path) {
            Selected::mustBeThere($workload, $point, $path);
        }
        $host = self::host($input);
        $isNew = $host === null ? Targets::isNew($target) : Hosts::look($host, $target, $host->folder)->status('') === null;
        $plan = new RestorePlan(
            $paths,
            $target,
            self::rule((string) $input->getOption('conflict'), '--conflict'),
            $point->captured_at->format('Y-m-d Hi'),
            '',
            (bool) $input->getOption('in-place'),
            (bool) $input->getOption('flat'),
            (bool) $input->getOption('keep-setid'),
            $isNew,
            $rule,
            $across,
            false,
            $host->name ?? '',
            self::conflictIn($input),
            self::newName($input, $paths),
            '',
            self::command($input, 'before', $host),
            self::command($input, 'after', $host),
            max(1, (int) $input->getOption('limit')),
            permissionsOnly: $isOnly,
        );
        $planned = PlannedOrder::of($plan, $point, $points, 'planned');
        $reading = $isOnly
            ? PlanOfReading::ofPermissions($points, $point, $paths)
            : PlanOfReading::for($points, $point, $paths, null, $rule, $planned->items);

        return new self($points, $point, $plan->withSentence(self::sentence($plan, $reading, $workload, $point)), $reading, $planned);
    }

    private static function sentence(RestorePlan $plan, PlanOfReading $reading, Workload $workload, BackupSet $point): string
    {
        $moment = Words::moment($point->captured_at, 'UTC');
        $target = ($plan->host === '' ? '' : "{$plan->host}:").mb_scrub($plan->target);
        if ($plan->permissionsOnly) {
            return sprintf(
                'Give %s of %s, in %s, the permissions of %s.', Words::count($reading->entries, 'thing'), $workload->name, $target, $moment,
            );
        }

        return sprintf(
            'Put back %s, %s from %s as it was on %s into %s, %s.',
            Words::count($reading->files, 'file'),
            Words::size($reading->bytes),
            $workload->name,
            $moment,
            $target,
            $plan->conflict->words(),
        );
    }

    /** @throws InvalidArgumentException if something is said beside it that moves or renames */
    private static function isOnlyPermissions(InputInterface $input): bool
    {
        $isOnly = (bool) $input->getOption('only-permissions');
        foreach (['flat', 'rename', 'across-points', 'before', 'after', 'conflict-in', 'keep-setid'] as $other) {
            if ($isOnly && ! in_array($input->getOption($other), [null, false, []], true)) {
                throw new InvalidArgumentException("--$other means nothing with --only-permissions, which leaves all where it stands.");
            }
        }

        return $isOnly;
    }

    /**
     * An order with no target, of which only the contents are wanted.
     *
     * @param  list<string>  $paths  as in trees
     *
     * @throws InvalidArgumentException|CannotPlan
     */
    public static function toLook(InputInterface $input, Workload $workload, array $paths, CopyRule $rule): self
    {
        $points = new Points($workload, null, $rule);
        $rule->mustName($points->storeNames());
        $point = self::point($input, $points, $paths);
        foreach ($paths as $path) {
            Selected::mustBeThere($workload, $point, $path);
        }
        $plan = new RestorePlan($paths, '', ConflictRule::Beside, '', '', copies: $rule);
        $planned = PlannedOrder::of($plan, $point, $points, 'hand');
        $reading = PlanOfReading::for($points, $point, $paths, null, $rule, $planned->items);
        $sentence = sprintf(
            'Put back %s, %s from %s as it was on %s into an empty folder.',
            Words::count($reading->files, 'file'),
            Words::size($reading->bytes),
            $workload->name,
            Words::moment($point->captured_at, 'UTC'),
        );

        return new self($points, $point, $plan->withSentence($sentence), $reading, $planned);
    }

    private static function host(InputInterface $input): ?Host
    {
        $name = $input->getOption('host');
        if ($name === null) {
            return null;
        }
        if ($input->getOption('in-place')) {
            throw new InvalidArgumentException('In place is where it came from; name a folder of the host with --to.');
        }

        return Host::query()->where('name', $name)->first() ??
            throw new InvalidArgumentException("There is no host named \"$name\"; make it known with host-add.");
    }

    private static function target(InputInterface $input, Workload $workload): string
    {
        $to = $input->getOption('to');
        if (($to === null) === ! $input->getOption('in-place')) {
            throw new InvalidArgumentException('Say where to: with --to=DIR or with --in-place.');
        }
        if ($to === null) {
            return $workload->source ??
                throw CannotPlan::because("{$workload->name} has no place of its own that is known here; name a folder with --to");
        }
        if ($to === '') {
            throw new InvalidArgumentException('--to names no folder.');
        }
        $host = self::host($input);
        if ($host !== null) {
            return Targets::onHost($host, (string) $to);
        }
        $target = Targets::absolute((string) $to);
        Targets::refuseUnfit($target);

        return $target;
    }

    /** @param  list<string>  $paths */
    private static function point(InputInterface $input, Points $points, array $paths): BackupSet
    {
        $named = $input->getOption('point');
        if (($named === null) === ($input->getOption('at') === null)) {
            throw new InvalidArgumentException('Say which point: with --at=MOMENT or with --point=SET.');
        }
        if ($named !== null) {
            $point = KaisekiCommand::knownSet($points->workload, (string) $named);
            $outline = $points->sets[$point->id];
            if ($points->usable($outline) === 'no') {
                throw CannotPlan::because("{$point->name} cannot be given back: ".$points->because($outline));
            }

            return $points->model($outline);
        }
        $found = $points->find(
            Instant::parse((string) $input->getOption('at')),
            Demands::parse((string) $input->getOption('demand')),
            $paths === [''] ? null : $paths,
        );
        if ($found->set === null) {
            $reasons = array_map(fn (PassedOver $over): string => "{$over->set->id}: {$over->because}", $found->passedOver);
            throw CannotPlan::because(
                'there is no usable point at or before that moment'.
                    ($reasons === [] ? '' : ' ('.implode('; ', array_slice($reasons, 0, 5)).')'),
            );
        }

        return $points->modelOf($found->set) ?? throw CannotPlan::because('the point is gone');
    }

    private static function rule(string $word, string $option): ConflictRule
    {
        return ConflictRule::tryFrom($word) ??
            throw new InvalidArgumentException("$option is one of ".implode(', ', array_column(ConflictRule::cases(), 'value')).'.');
    }

    /** @return array<array-key, ConflictRule> */
    private static function conflictIn(InputInterface $input): array
    {
        $rules = [];
        foreach ($input->getOption('conflict-in') as $one) {
            $equals = strrpos((string) $one, '=') ?: throw new InvalidArgumentException('--conflict-in is FOLDER=RULE.');
            $rules[EntryPath::of(substr((string) $one, 0, $equals))] = self::rule(substr((string) $one, $equals + 1), '--conflict-in');
        }

        return $rules;
    }

    /** @param  list<string>  $paths */
    private static function newName(InputInterface $input, array $paths): string
    {
        $name = (string) $input->getOption('rename');
        if ($name !== '' && (count($paths) !== 1 || $paths[0] === '')) {
            throw new InvalidArgumentException('--rename goes with one --path that is not the whole tree.');
        }
        if ($name !== '' && (str_contains($name, '/') || EntryPath::of($name) !== $name)) {
            throw new InvalidArgumentException('"'.Shown::name($name).'" is no name of a file or folder.');
        }

        return $name;
    }

    /** @return list<string> */
    private static function command(InputInterface $input, string $option, ?Host $host): array
    {
        $json = $input->getOption($option);
        if ($json !== null && $host?->kind === 'sftp') {
            throw new InvalidArgumentException("--$option: commands cannot be run on a host that is reached by SFTP only.");
        }

        return $json === null ? [] : HostCommand::parse((string) $json);
    }
}
