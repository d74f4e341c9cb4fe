<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Databases\Order\DatabaseHandSheet;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Stop;
use App\Kinds\Files\Terminal\OrderFromInput;
use App\Models\Workload;
use App\Trees\Run\HandSheetOf;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class HandSheet extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('hand-sheet')->setDescription('Writes the commands with which a person does the same restore with ordinary tools')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the newest usable point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'the point of this very set')
            ->addOption('path', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'what would be brought back; without it everything')
            ->addOption('out', null, InputOption::VALUE_REQUIRED, 'a file to write it to; without it, it is printed');
        $this->addDemand();
        $this->addCopyRule();
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        if ($workload->kind === 'database') {
            return $this->ofDatabase($input, $workload);
        }
        $paths = self::paths($input);
        $order = OrderFromInput::toLook($input, $workload, $paths, self::copyRule($input));
        $script = implode('', [...HandSheetOf::make($order->plan, $order->planned, $order->reading, $order->point, $order->points)->script()]);

        return $this->write($input, $order->point->name, $script);
    }

    private function ofDatabase(InputInterface $input, Workload $workload): int
    {
        $points = new DatabasePoints($workload);
        $at = $input->getOption('at');
        $reaches = $points->reach($at === null ? Stop::newest() : Stop::at(Instant::parse((string) $at)), $points->schemas());

        return $this->write($input, $reaches[0]->dump->name ?? '', (new DatabaseHandSheet($points, $reaches, [], ''))->script());
    }

    private function write(InputInterface $input, string $point, string $script): int
    {
        $out = $input->getOption('out');
        if ($out !== null) {
            if (@file_put_contents((string) $out, $script) !== strlen($script)) {
                throw new InvalidArgumentException("\"$out\" cannot be written.");
            }
            $this->answer(['point' => $point, 'sheet' => mb_scrub((string) $out)], fn (): array => ["$out is written; run it with: sh $out EMPTY-FOLDER"]);

            return self::DONE;
        }
        if ($this->json) {
            // Names may be any bytes, and JSON has none but UTF-8.
            $this->answer(['point' => $point, 'script_base64' => base64_encode($script)], fn (): array => []);
        } else {
            $this->raw($script);
        }

        return self::DONE;
    }
}
