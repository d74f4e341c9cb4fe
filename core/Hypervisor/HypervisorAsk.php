<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What a hypervisor is asked over its wire; a method of Hypervisor each. With it goes a JSON object of that method's arguments. */
enum HypervisorAsk: string
{
    case Room = 'room';
    case Machines = 'machines';
    case Create = 'create';
    case Configure = 'configure';
    case Rename = 'rename';
    case Delete = 'delete';
    case SwapDisk = 'swap disk';
    case RemoveDisk = 'remove disk';
    case Settle = 'settle';
    case ChangeOver = 'change over';
    case Plug = 'plug';
    case Unplug = 'unplug';
    case TakeSnapshot = 'take snapshot';
    case DropSnapshot = 'drop snapshot';
    case Settling = 'settling';
    case StopSettling = 'stop settling';
    case Start = 'start';
    case Stop = 'stop';
    case OpenDisk = 'open disk';
    case CloseDisk = 'close disk';
    case Marks = 'marks';
    case Mark = 'mark';
    case BeginMoment = 'begin moment';
    case EndMoment = 'end moment';
    case Agent = 'agent';
    case RunInside = 'run inside';
    case WriteInside = 'write inside';
    case OpenAnnex = 'open annex';
    case CloseAnnex = 'close annex';
    case AnnexRecord = 'annex record';
    case Type = 'type';
    case Serial = 'serial';
    case Firmware = 'firmware';
    case Beat = 'beat';
    case Screen = 'screen';
}
