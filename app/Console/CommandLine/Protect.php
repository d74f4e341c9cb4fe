<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\Protection;
use App\Instance;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Models\Store;
use App\Models\Workload;
use App\View\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Level;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Protect extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('protect')->setDescription('Makes a set of a folder tree or of a database server, and catalogs it')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload; with --source it is made if there is none')
            ->addOption('source', null, InputOption::VALUE_REQUIRED, 'the folder that is protected')
            ->addOption('server', null, InputOption::VALUE_REQUIRED, 'the database server that is protected, made known with "server add"')
            ->addOption('level', null, InputOption::VALUE_REQUIRED, 'full, diff, incr, or 0 to 9; of a database full or log', 'incr')
            ->addOption('new-history', null, InputOption::VALUE_NONE, 'the source was rebuilt: begin a new history, with a full')
            ->addOption('before', null, InputOption::VALUE_REQUIRED, 'a command that brings the source to rest, as a JSON list of arguments')
            ->addOption('after', null, InputOption::VALUE_REQUIRED, 'a command that lets it go on, likewise')
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'seconds after which either is ended', '60')
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'the store it is written to', 'boathouse');
    }

    protected function carryOut(InputInterface $input): int
    {
        $level = Level::of((string) $input->getOption('level'));
        $workload = $this->workloadOrNew($input);
        $name = (string) $input->getOption('store');
        $store = Store::query()->where('name', $name)->first();
        if ($store === null && $name === 'boathouse') {
            $store = Store::query()->create(['name' => $name, 'site' => 'boathouse', 'root' => Instance::folder('stores/boathouse')]);
        }
        $store ?? throw new InvalidArgumentException("There is no store named \"$name\".");
        $set = (new Protection($workload, $store))->make($level, null, fn (int $members) => $this->progress(number_format($members).' members cataloged'), (bool) $input->getOption('new-history'), self::command($input->getOption('before')), self::command($input->getOption('after')), max(1, (int) $input->getOption('limit')));
        $this->endProgress();
        $this->answer(
            ['set' => $set->name, 'level' => $set->level, 'captured_at' => $set->captured_at->format('Y-m-d\TH:i:s\Z'), 'base' => $set->base?->name, 'bytes' => $set->bytes, 'entries' => $set->entries, 'consistency' => $set->consistency, 'commands' => $set->commands ?? [], 'remarks' => $set->remarks ?? []],
            fn (): array => [sprintf('%s: %s, %s in the archive.', $set->name, Words::count($set->entries, $set->database === null ? 'member' : ($set->level === 'log' ? 'transaction' : 'table')), Words::size($set->bytes)), ...($set->remarks ?? [])],
        );

        return self::DONE;
    }

    private function workloadOrNew(InputInterface $input): Workload
    {
        $source = $input->getOption('source');
        $name = (string) $input->getArgument('name');
        $workload = Workload::query()->where('name', $name)->first();
        if ($input->getOption('server') !== null) {
            return self::databaseOf($name, (string) $input->getOption('server'), $workload);
        }
        if ($source === null) {
            return $workload ?? throw new InvalidArgumentException("There is no workload named \"$name\"; name its folder with --source to begin protecting it.");
        }
        $root = realpath((string) $source);
        if ($root === false || ! is_dir($root)) {
            throw new InvalidArgumentException("There is no folder \"$source\".");
        }
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException('The name of a workload has letters, digits, dots, dashes and underscores, and at most 100 of them.');
        }
        if ($workload !== null && $workload->source !== null && $workload->source !== $root) {
            throw new InvalidArgumentException("$name has another source already: {$workload->source}.");
        }

        return Workload::query()->updateOrCreate(['name' => $name], ['kind' => 'files', 'source' => $root]);
    }

    private static function databaseOf(string $name, string $server, ?Workload $workload): Workload
    {
        $known = DatabaseServer::query()->where('name', $server)->first() ?? throw new InvalidArgumentException("There is no server named \"$server\".");
        if (($workload !== null && $workload->kind !== 'database') || preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException("\"$name\" cannot be the name of a database here.");
        }

        return Workload::query()->updateOrCreate(['name' => $name], ['kind' => 'database', 'server_id' => $known->id, 'site' => $known->site]);
    }
}
