import { changeFrontDoor } from '../../app/chat-forms.ts';
import { FrontDoor } from '../../core/message/front-door.ts';
import { takes } from '../../web/endpoint.ts';

export const PUT = takes(FrontDoor, (use, door) => changeFrontDoor(use, door));
