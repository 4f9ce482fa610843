import { Controller, Delete, Get, Param } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { JobBoard, type Job } from './jobBoard.js';

@ApiTags('jobs')
@Controller('api/jobs')
export class JobsController {
  constructor(private readonly board: JobBoard) {}

  @Get()
  @ApiOperation({ summary: 'Long work in hand, and the last that was done' })
  list(): Job[] {
    return this.board.list();
  }

  @Get(':id')
  @ApiOperation({ summary: 'One job: how far it is, what came of it' })
  one(@Param('id') id: string): Job {
    return this.board.get(id);
  }

  @Delete(':id')
  @ApiOperation({ summary: 'Cancel a job' })
  cancel(@Param('id') id: string): Job {
    return this.board.cancel(id);
  }
}
