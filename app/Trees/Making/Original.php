<?php

declare(strict_types=1);

namespace App\Trees\Making;

use App\Hosts\HostCommand;
use App\Sets\CannotRegister;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Protect\Clock;

/** The live tree of files that sets of a workload are made of, wherever it is. */
interface Original
{
    public function clock(): Clock;

    /** The folder in which commands run that bring its programs to rest; null where none can run. */
    public function besideIt(): ?string;

    /**
     * Asked before anything runs there.
     *
     * @throws CannotRegister|\Kaiseki\Core\Files\UnableToRestore if it is not there, or may not be entered
     */
    public function reach(): void;

    /**
     * To be read as a whole.
     *
     * @throws CannotRegister|\Kaiseki\Core\Files\UnableToRestore if it cannot be reached
     */
    public function open(): Look;

    /**
     * What is to be known of what was read, asked when all was.
     *
     * @return list<string>
     */
    public function remarks(): array;

    /**
     * What ran there to bring it to rest, and to let it go on; asked after what is to be known.
     *
     * @return list<HostCommand>
     */
    public function commands(): array;

    /** It is not read any more, however that went. */
    public function close(): void;
}
